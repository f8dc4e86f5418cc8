import { isMuchReduction, MUCH_REDUCTION_DB, reductionText } from '@/core/limiter/reduction-words';
import type { Readings } from '@/core/loudness/readings';
import { specLoudness } from '@/core/spec/requirements/loudness';
import type { Spec } from '@/core/spec/spec';
import { type LevelOptions, type LimitedSolution, USUAL_REDUCTION_DB } from '@/core/treatment/limited-solver';
import { USUAL_LIMITER } from '@/core/treatment/steps/limit';
import type { Levels } from '@/core/treatment/treatment';
import { formatGain, formatNumber } from '@/core/units/format';
import { classNames } from '@/ui/class-names';
import { optionListMessages as messages } from './messages';
import { StateMark } from './state-mark';

interface Option {
  key: string;
  name: string;
  levels: Levels;
  loudness: string;
  cost: string;
  /** The rest of what it costs. */
  hint: string;
  isAudible: boolean;
}

/** The options where the ceiling stops the gain, each with what it reaches and what it costs. None is chosen for anybody. */
export function OptionList({
  offered,
  spec,
  levels,
  onChoose,
  withKeys = false,
}: {
  offered: LevelOptions | null | 'failed' | undefined;
  spec: Spec;
  levels: Levels;
  onChoose: (levels: Levels) => void;
  /** The page takes their numbers as keys. */
  withKeys?: boolean;
}) {
  if (offered === null) return null;
  if (offered === undefined) return <p className="py-1 text-xs text-mute">{messages.calculating}</p>;
  if (offered === 'failed') {
    return (
      <p role="alert" className="py-1 text-xs text-breach">
        {messages.notCalculated}
      </p>
    );
  }
  return (
    <ul aria-label={messages.options} className="flex flex-col gap-1">
      {optionsOf(offered, spec).map(({ key, name, levels: own, loudness, cost, hint, isAudible }) => {
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
      {offered.target === null && offered.limited !== null ? (
        <li className="px-2.5 text-xs text-mute">
          <StateMark state="under" /> {messages.outOfReach(formatNumber(spec.loudness?.target ?? 0))}
        </li>
      ) : null}
    </ul>
  );
}

/** Those that there are, from the gentlest on. */
export function optionsOf({ gainOnly, limited, target }: LevelOptions, spec: Spec): Option[] {
  const list: Omit<Option, 'key'>[] = [
    {
      name: messages.gainOnly,
      levels: { gainDb: gainOnly.gainDb, limit: null },
      loudness: loudnessText(gainOnly.readings, spec),
      cost: [...shortText(gainOnly.shortfallLu), messages.noLimiting].join(', '),
      hint: messages.gainOnlyEffect,
      isAudible: false,
    },
  ];
  if (limited) list.push(optionOf(messages.limitByUpTo(USUAL_REDUCTION_DB), limited, spec));
  if (target) list.push(optionOf(messages.reachTheTarget, target, spec));
  return list.map((answer, i) => ({ key: `${i + 1}`, ...answer }));
}

function optionOf(name: string, solution: LimitedSolution, spec: Spec): Omit<Option, 'key'> {
  const { gainDb, ceilingDbtp, reduction, readings, shortfallLu, luPerDb, isAudible } = solution;
  const { percentile95Db, meanDb } = reduction;
  const short = shortText(shortfallLu);
  const most = isMuchReduction(reduction) ? [messages.much(MUCH_REDUCTION_DB)] : [];
  return {
    name,
    levels: { gainDb, limit: { ceilingDbtp, ...USUAL_LIMITER } },
    loudness: loudnessText(readings, spec),
    cost: [...short, reductionText(reduction), ...most].join(', '),
    hint: [
      messages.whileLimiting(formatNumber(meanDb), formatNumber(percentile95Db)),
      messages.costOfMoreGain(formatNumber(luPerDb, 2)),
      ...(isMuchReduction(reduction) ? [messages.isMuch(MUCH_REDUCTION_DB)] : []),
      ...(isAudible ? [messages.probablyAudible] : []),
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
  return shortfallLu >= 0.05 ? [messages.shortOfTarget(formatNumber(shortfallLu))] : [];
}
