import type { Readings } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';
import { specLoudness } from '@/core/spec/verdict';
import { type Answers, type LimitedSolution, USUAL_REDUCTION_DB } from '@/core/treatment/limited-solver';
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
  isAudible: boolean;
}

/** The ways on where the ceiling stops the gain, each with what it reaches and what it costs. None is chosen for anybody. */
export function AnswerList({
  answers,
  spec,
  levels,
  onChoose,
}: {
  answers: Answers | null | 'failed' | undefined;
  spec: Spec;
  levels: Levels;
  onChoose: (levels: Levels) => void;
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
      {answersOf(answers, spec).map(({ key, name, levels: own, loudness, cost, isAudible }) => {
        const isChosen = own.gainDb === levels.gainDb && own.limit?.ceilingDbtp === levels.limit?.ceilingDbtp;
        return (
          <li key={key}>
            <button
              type="button"
              aria-pressed={isChosen}
              aria-keyshortcuts={key}
              onClick={() => onChoose(own)}
              className={classNames(
                'block w-full cursor-pointer rounded-control border px-2.5 py-1 text-left text-[13px] leading-[17px]',
                isChosen ? 'border-slide-2 bg-slide-1' : 'border-hair hover:border-stock-3',
              )}
            >
              <span className="flex items-baseline gap-2">
                <span className="grow font-semibold">{name}</span>
                <span className="font-mono text-xs">{formatGain(own.gainDb)}</span>
                <kbd className="font-mono text-xs text-stock-ink">{key}</kbd>
              </span>
              <span className="flex justify-between gap-2 text-xs text-mute">
                <span>{loudness}</span>
                <span>
                  {isAudible ? <StateMark state="advice" /> : null} {cost}
                </span>
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
      loudness: reachText(gainOnly.readings, gainOnly.shortfallLu, spec),
      cost: 'nothing is limited',
      isAudible: false,
    },
  ];
  if (limited) list.push(answerOf(`Limit by ${USUAL_REDUCTION_DB} dB at most`, limited, spec));
  if (target) list.push(answerOf('Reach the target', target, spec));
  return list.map((answer, i) => ({ key: `${i + 1}`, ...answer }));
}

function answerOf(name: string, solution: LimitedSolution, spec: Spec): Omit<Answer, 'key'> {
  const { gainDb, ceilingDbtp, reduction, readings, shortfallLu, isAudible } = solution;
  const { greatestDb, percentile95Db, shareOfTime } = reduction;
  return {
    name,
    levels: { gainDb, limit: { ceilingDbtp, link: 1, lfe: 'linked', releaseMs: null } },
    loudness: reachText(readings, shortfallLu, spec),
    cost: `−${formatNumber(greatestDb)} dB, mostly <${formatNumber(percentile95Db)}, ${percent(shareOfTime)}`,
    isAudible,
  };
}

export function percent(share: number): string {
  return share > 0 && share < 0.0005 ? '<0.1 %' : `${formatNumber(100 * share, share < 0.0995 ? 1 : 0)} %`;
}

function reachText(readings: Readings, shortfallLu: number, spec: Spec): string {
  const loudness = specLoudness(readings, spec);
  if (loudness === null) return '◌';
  return `${formatNumber(loudness)}${shortfallLu >= 0.05 ? `, ${formatNumber(shortfallLu)} LU short` : ''}`;
}
