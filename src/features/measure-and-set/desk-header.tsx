import type { ReactNode } from 'react';
import type { Finding } from '@/core/findings/finding';
import { kindOf } from '@/core/findings/findings';
import type { ReductionFigures } from '@/core/limiter/reduction';
import { isMuchReduction, reductionText } from '@/core/limiter/reduction-words';
import type { Readings } from '@/core/loudness/readings';
import { type Verdict, verdictPhrases } from '@/core/spec/assessment';
import type { Spec } from '@/core/spec/spec';
import { limitName } from '@/core/treatment/limit-name';
import type { GainSolution } from '@/core/treatment/solver';
import { formatNumber } from '@/core/units/format';
import { type MarkState, StatePill } from '@/features/common/state-mark';
import { describeSamples } from '@/formats/audio-format';
import type { ProgrammeView } from '@/server/jobs/programme-view';
import { deskHeaderMessages as messages, remediesMessages } from './messages';
import { type Remedy, remedyOfFinding } from './remedies';

/** A state in two or three words. */
interface Phrase {
  state: MarkState;
  text: string;
  remedy?: Remedy | null;
}

/** What the programme is, and how it stands against the spec. */
export function DeskHeader({
  programme,
  verdict,
  after,
  spec,
  solution,
  gainDb,
  reduction,
  findings,
  isPreparing,
  hasFailed,
  remedyFor,
  onRemedy,
  children,
}: {
  programme: ProgrammeView;
  verdict: Verdict;
  after: Readings;
  spec: Spec;
  /** Where gain alone stops; null with a limiter. */
  solution: GainSolution | null;
  gainDb: number;
  /** Of the limiter; null without one, or until it is forecast. */
  reduction: ReductionFigures | null;
  findings: readonly Finding[];
  /** What comes before the gain is being measured; until then the readings are those of what was there before. */
  isPreparing: boolean;
  /** It could not be measured, or what was found of it could not be had. */
  hasFailed: boolean;
  /** What can be done about a requirement that is missed. */
  remedyFor: (key: string) => Remedy | null;
  onRemedy: (remedy: Remedy) => void;
  children: ReactNode;
}) {
  const phrases: Phrase[] = [
    ...(hasFailed ? [{ state: 'not-measured' as const, text: messages.notForecast }] : []),
    ...verdictPhrases(verdict).map(({ state, text, key }) => ({
      state,
      text,
      remedy: key === undefined || state === 'inside' || state === 'not-assessed' ? null : remedyFor(key),
    })),
    ...stopPhrases(after, solution, spec, gainDb),
    ...(reduction && isMuchReduction(reduction)
      ? [{ state: 'advice' as const, text: reductionText(reduction), remedy: remedyFor('peak') }]
      : []),
    ...(programme.measured ? findingPhrases(findings, programme.measured.readings) : []),
  ];
  return (
    <div className="flex flex-wrap items-start justify-between gap-x-4 gap-y-2">
      <div className="min-w-0">
        <h1 className="truncate text-xl leading-6 font-bold">{programme.title}</h1>
        <p className="truncate text-xs leading-4 text-mute">{sourceLine(programme)}</p>
      </div>
      <div className="flex flex-wrap items-center gap-2 lg:justify-end">
        <ul aria-label={messages.verdict} data-tour="verdict" className="flex flex-wrap gap-2" aria-live="polite">
          {isPreparing ? (
            <li>
              <StatePill state="not-measured">{messages.measuringTheTrimmedPart}</StatePill>
            </li>
          ) : null}
          {phrases.map(({ state, text, remedy }) => (
            <li key={text}>
              {remedy ? (
                <button
                  type="button"
                  aria-label={`${text}: ${remedy.name}`}
                  title={messages.click(remedy.name)}
                  onClick={() => onRemedy(remedy)}
                  className="cursor-pointer rounded-full hover:brightness-95"
                >
                  <StatePill state={state}>{text}</StatePill>
                </button>
              ) : (
                <StatePill state={state}>{text}</StatePill>
              )}
            </li>
          ))}
        </ul>
        {children}
      </div>
    </div>
  );
}

function sourceLine({ fileName, format }: ProgrammeView): string {
  return [fileName, describeSamples(format), `${format.sampleRateHz / 1000} kHz`, format.layout].join(' · ');
}

/** Where the ceiling stops the gain short of the target, by how much; said while the gain stands there or lower. */
function stopPhrases(after: Readings, solution: GainSolution | null, spec: Spec, gainDb: number): Phrase[] {
  if (!solution || solution.binding === 'target' || solution.shortfallLu < 0.005 || !spec.loudness) return [];
  if (gainDb > solution.gainDb + 0.005 || after.integratedLufs === null) return [];
  const by = formatNumber(solution.shortfallLu);
  const remedy = { name: remediesMessages.chooseAnOption, hasOptions: true } as const;
  return [{ state: 'advice', text: messages.stopsTheGain(limitName(solution.binding), by), remedy }];
}

function findingPhrases(findings: readonly Finding[], readings: Readings): Phrase[] {
  return findings.flatMap((finding) => {
    const text = kindOf(finding)?.short?.(readings);
    return text ? [{ state: 'advice' as const, text, remedy: remedyOfFinding(finding) }] : [];
  });
}
