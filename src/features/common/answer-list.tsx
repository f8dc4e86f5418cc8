import { isMuchReduction, MUCH_REDUCTION_DB, reductionText } from '@/core/limiter/reduction-words';
import type { Readings } from '@/core/loudness/readings';
import { specLoudness } from '@/core/spec/requirements/loudness';
import type { Spec } from '@/core/spec/spec';
import { type Answers, type LimitedSolution, USUAL_REDUCTION_DB } from '@/core/treatment/limited-solver';
import { USUAL_LIMITER } from '@/core/treatment/steps/limit';
import type { Levels } from '@/core/treatment/treatment';
import { formatGain, formatNumber } from '@/core/units/format';
import { classNames } from '@/ui/class-names';
import { StateMark } from './state-mark';

interface Answer {
  key: string;
  name: string;
  levels: Levels;
  loudness: string;
  cost: string;
  /** The rest of what it costs. */
  hint: string;
  isAudible: boolean;
}

/** The ways on where the ceiling stops the gain, each with what it reaches and what it costs. None is chosen for anybody. */
export function AnswerList({
  answers,
  spec,
  levels,
  onChoose,
  withKeys = false,
}: {
  answers: Answers | null | 'failed' | undefined;
  spec: Spec;
  levels: Levels;
  onChoose: (levels: Levels) => void;
  /** The page takes their numbers as keys. */
  withKeys?: boolean;
}) {
  if (answers === null) return null;
  if (answers === undefined)
    return <p className="py-1 text-xs text-mute">Looking for the peaks that are in the way …</p>;
  if (answers === 'failed') {
    return (
      <p role="alert" className="py-1 text-xs text-breach">
        What a limiter could do is not known: ask again by reloading the page. Gain alone is as it was.
      </p>
    );
  }
  return (
    <ul aria-label="Ways on" className="flex flex-col gap-1">
      {answersOf(answers, spec).map(({ key, name, levels: own, loudness, cost, hint, isAudible }) => {
        const isChosen = own.gainDb === levels.gainDb && own.limit?.ceilingDbtp === levels.limit?.ceilingDbtp;
        return (
          <li key={key}>
            <button
              type="button"
              aria-pressed={isChosen}
              title={hint}
              aria-keyshortcuts={withKeys ? key : undefined}
              onClick={() => onChoose(own)}
              className={classNames(
                'block w-full cursor-pointer rounded-control border px-2.5 py-0.5 text-left text-[13px] leading-[17px]',
                isChosen ? 'border-slide-2 bg-slide-1' : 'border-hair hover:border-stock-3',
              )}
            >
              <span className="flex items-baseline gap-2">
                <span className="grow font-semibold">
                  {name}: <span className="font-mono text-xs">{loudness}</span>
                </span>
                <span className="font-mono text-xs">{formatGain(own.gainDb)}</span>
                {withKeys ? <kbd className="font-mono text-xs text-stock-ink">{key}</kbd> : null}
              </span>
              <span className="block text-xs text-mute">
                {isAudible ? <StateMark state="advice" /> : null} {cost}
              </span>
            </button>
          </li>
        );
      })}
      {answers.target === null && answers.limited !== null ? (
        <li className="px-2.5 text-xs text-mute">
          <StateMark state="under" /> No limiter reaches {formatNumber(spec.loudness?.target ?? 0)} from this mix.
        </li>
      ) : null}
    </ul>
  );
}

/** Those that there are, from the gentlest on. */
export function answersOf({ gainOnly, limited, target }: Answers, spec: Spec): Answer[] {
  const list: Omit<Answer, 'key'>[] = [
    {
      name: 'Gain only',
      levels: { gainDb: gainOnly.gainDb, limit: null },
      loudness: loudnessText(gainOnly.readings, spec),
      cost: [...shortText(gainOnly.shortfallLu), 'nothing is limited'].join(', '),
      hint: 'Every sample keeps its shape.',
      isAudible: false,
    },
  ];
  if (limited) list.push(answerOf(`Limit by ${USUAL_REDUCTION_DB} dB at most`, limited, spec));
  if (target) list.push(answerOf('Reach the target', target, spec));
  return list.map((answer, i) => ({ key: `${i + 1}`, ...answer }));
}

function answerOf(name: string, solution: LimitedSolution, spec: Spec): Omit<Answer, 'key'> {
  const { gainDb, ceilingDbtp, reduction, readings, shortfallLu, luPerDb, isAudible } = solution;
  const { percentile95Db, meanDb } = reduction;
  const short = shortText(shortfallLu);
  const most = isMuchReduction(reduction) ? [`more than ${MUCH_REDUCTION_DB} dB`] : [];
  return {
    name,
    levels: { gainDb, limit: { ceilingDbtp, ...USUAL_LIMITER } },
    loudness: loudnessText(readings, spec),
    cost: [...short, reductionText(reduction), ...most].join(', '),
    hint: [
      `Where it turns down, ${formatNumber(meanDb)} dB on average, and for 95 % of that time by less than`,
      `${formatNumber(percentile95Db)} dB; another dB of gain brings ${formatNumber(luPerDb, 2)} LU.`,
      ...(isMuchReduction(reduction) ? [`That is more than ${MUCH_REDUCTION_DB} dB.`] : []),
      ...(isAudible ? ['This will be heard.'] : []),
    ].join(' '),
    isAudible: isAudible || isMuchReduction(reduction),
  };
}

function loudnessText(readings: Readings, spec: Spec): string {
  const loudness = specLoudness(readings, spec);
  return loudness === null ? '◌' : formatNumber(loudness);
}

/** A shortfall never reads as 0.0. */
function shortText(shortfallLu: number): string[] {
  return shortfallLu >= 0.05 ? [`${formatNumber(shortfallLu)} LU short`] : [];
}
