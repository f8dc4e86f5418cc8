'use client';

import { useCallback, useEffect, useMemo, useState } from 'react';
import type { Readings } from '@/core/loudness/readings';
import { findOvers } from '@/core/peak/overs';
import { SPECS, specById } from '@/core/spec/catalogue';
import type { Spec } from '@/core/spec/spec';
import { judge } from '@/core/spec/verdict';
import { forecastGain, glance, moveLevels } from '@/core/treatment/forecast';
import { limitName } from '@/core/treatment/limit-name';
import { type GainSolution, gainForHeadroom, gainToCeiling, gainToTarget, solveGain } from '@/core/treatment/solver';
import type { Levels } from '@/core/treatment/treatment';
import { formatNumber } from '@/core/units/format';
import { answersOf } from '@/features/common/answer-list';
import { ErrorNotice } from '@/features/common/error-notice';
import { StatePill } from '@/features/common/state-mark';
import { type LimitedNow, useAnswers, useLimited } from '@/features/common/use-limiter';
import { type Trace, useTrace } from '@/features/common/use-trace';
import { type Phrase, verdictPhrases } from '@/features/common/verdict-words';
import { describeSamples } from '@/formats/audio-format';
import type { ProgrammeView } from '@/server/jobs/jobs';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { classNames } from '@/ui/class-names';
import { type GainChoice, GainPanel } from './gain-panel';
import { type Place, Places } from './places';
import { ReadingsTable } from './readings-table';
import { Rule } from './rule';
import { TRACE_HEIGHT, TraceDrawing } from './trace-drawing';
import { TreatmentCard } from './treatment-card';
import { useLevels } from './use-levels';

const SPEC_OPTIONS = SPECS.map(({ id, name, basis }) => ({
  value: id,
  label: name,
  detail: basis.kind === 'published' ? 'published' : 'common practice',
}));

/** The desk for one measured programme: what it is, how far from the spec, and the gain that brings it there. */
export function Desk({
  programme,
  measured,
  specId,
  onSpecChange,
}: {
  programme: ProgrammeView;
  measured: NonNullable<ProgrammeView['measured']>;
  specId: string;
  onSpecChange: (specId: string) => void;
}) {
  const { id, format, treatment, treatmentVersion, sha256 } = programme;
  const { readings: source, findings } = measured;
  const spec = specById(specId);
  const trace = useTrace(sha256, format.layout);
  const power = typeof trace === 'object' ? trace.weightedPower : undefined;
  const { levels, version, error, change, commit } = useLevels(id, { ...treatment, version: treatmentVersion });
  const { gainDb, limit } = levels;
  const setGain = useCallback((value: number) => commit({ gainDb: value, limit }), [commit, limit]);
  // Measured anew, a programme is asked for anew.
  const sourceKey = `${sha256} ${format.layout}`;
  const limited = useLimited(id, sourceKey, limit && { gainDb, ceilingDbtp: limit.ceilingDbtp });

  const shown = useMemo(() => {
    if (limit) return limitedShown(source, { gainDb, limit, trimDb: 0 }, limited);
    return power ? forecastGain(source, power, gainDb) : moveLevels(source, gainDb);
  }, [source, power, gainDb, limit, limited]);
  const verdict = judge(shown, format, spec);
  const overs = useMemo(
    () => (typeof trace === 'object' && !limit ? findOvers(trace.peaks, gainDb, spec.peak.ceiling) : []),
    [trace, gainDb, limit, spec.peak.ceiling],
  );
  const [selected, setSelected] = useState<Place>();

  const solution = useMemo(() => (power ? solveGain(source, power, spec) : null), [source, power, spec]);
  const isStopped = solution?.binding === 'ceiling' && spec.loudness !== undefined && solution.shortfallLu >= 0.005;
  const answers = useAnswers(id, specId, sourceKey, isStopped);
  const ways = useMemo(() => (answers && answers !== 'failed' ? answersOf(answers, spec) : []), [answers, spec]);

  const choices = useMemo((): GainChoice[] => {
    const plain = power ? gainToTarget(source, power, spec) : null;
    // A limiter takes some loudness itself: with it, the target lies further up.
    const target = limit && answers && answers !== 'failed' && answers.target ? answers.target.gainDb : plain;
    return [
      { key: 'T', name: 'Meet the target', gainDb: target },
      { key: 'C', name: 'Stop at the ceiling', gainDb: gainToCeiling(source, spec) },
      { key: 'H', name: 'Leave 6 dB free', gainDb: gainForHeadroom(source) },
      { key: '0', name: 'As it came in', gainDb: 0 },
    ];
  }, [source, power, spec, limit, answers]);
  useKeys(choices, ways, setGain, commit);

  return (
    <div className="flex h-full min-h-0 flex-col gap-2.5">
      <div className="flex flex-wrap items-start justify-between gap-x-4 gap-y-2">
        <div className="min-w-0">
          <h1 className="truncate text-xl font-bold">{programme.title}</h1>
          <p className="truncate text-xs text-mute">{sourceLine(programme)}</p>
        </div>
        <ul aria-label="Verdict" className="flex flex-wrap gap-2 lg:justify-end" aria-live="polite">
          {[
            ...verdictPhrases(verdict, shown, spec),
            ...(limit ? [] : stopPhrases(shown, solution, spec, gainDb)),
            ...findingPhrases(findings),
          ].map(({ state, text }) => (
            <li key={text}>
              <StatePill state={state}>{text}</StatePill>
            </li>
          ))}
        </ul>
      </div>
      <ErrorNotice error={error} />
      <Card title="Trace" remark={<TraceLegend isLimited={limit !== null} />} className="pb-1.5">
        <TraceArea trace={trace} spec={spec} gainDb={gainDb} overs={overs} selected={selected} />
      </Card>
      <Card className="flex flex-col items-stretch gap-4 lg:flex-row">
        <div className="min-w-0 grow">
          <div className="mb-1.5 flex items-center justify-between gap-4">
            <h2 className="text-sm font-bold">
              Rule{' '}
              <span className="ml-2 hidden font-normal text-mute xl:inline">
                slide the programme along the spec: everything moves with the gain
              </span>
            </h2>
            <Choice label="Spec" value={specId} options={SPEC_OPTIONS} onChange={onSpecChange} />
          </div>
          <Rule
            spec={spec}
            source={source}
            treated={shown}
            gainDb={gainDb}
            onChange={(value) => change({ gainDb: value, limit })}
            onCommit={setGain}
          />
        </div>
        <GainPanel gainDb={gainDb} choices={choices} onCommit={setGain} />
      </Card>
      <div
        className={classNames(
          'grid min-h-58 grow gap-3',
          // The ways on have numbers to show.
          isStopped
            ? 'lg:grid-cols-[minmax(0,19fr)_minmax(0,21fr)_minmax(0,17fr)]'
            : 'lg:grid-cols-[minmax(0,9fr)_minmax(0,12fr)_minmax(0,9fr)]',
        )}
      >
        <TreatmentCard
          version={version}
          isWritten={programme.treatmentWritten && version === treatmentVersion}
          levels={levels}
          spec={spec}
          treated={shown}
          solution={solution}
          limited={limited}
          answers={isStopped ? answers : null}
          onChoose={commit}
          format={format}
        />
        <ReadingsTable
          before={source}
          after={shown}
          verdict={verdict}
          gainDb={gainDb}
          spec={spec}
          format={format}
          layoutId={programme.layoutId}
          sha256={sha256}
        />
        <Places
          overs={overs}
          treated={shown}
          spec={spec}
          sampleRateHz={format.sampleRateHz}
          channelLabels={source.perChannel.map(({ label }) => label)}
          selected={selected}
          onSelect={setSelected}
        />
      </div>
    </div>
  );
}

/** Where the ceiling stops the gain short of the target, by how much; said while the gain stands there or lower. */
function stopPhrases(shown: Readings, solution: GainSolution | null, spec: Spec, gainDb: number): Phrase[] {
  if (!solution || solution.binding === 'target' || solution.shortfallLu < 0.005 || !spec.loudness) return [];
  if (gainDb > solution.gainDb + 0.005 || shown.integratedLufs === null) return [];
  return [
    {
      state: 'advice',
      text: `${limitName(solution.binding)} stops the gain ${formatNumber(solution.shortfallLu)} LU short`,
    },
  ];
}

function findingPhrases(findings: NonNullable<ProgrammeView['measured']>['findings']): Phrase[] {
  const names: Partial<Record<(typeof findings)[number]['code'], string>> = {
    'clipped-runs': 'clipped runs',
    truncated: 'cut short',
    'non-finite-samples': 'invalid samples',
    'decode-errors': 'damaged',
    'lossy-source': 'lossy source',
    'silent-channel': 'a channel is silent',
    'inverted-polarity': 'one channel inverted',
    silent: 'silent',
    'too-short': 'under 400 ms',
  };
  return findings.flatMap(({ code, message }) => {
    const name = names[code];
    const count = code === 'clipped-runs' ? `${/^\d+/.exec(message)?.[0]} ` : '';
    return name ? [{ state: 'advice' as const, text: `${count}${name}` }] : [];
  });
}

function sourceLine({ fileName, format }: ProgrammeView): string {
  return [fileName, describeSamples(format), `${format.sampleRateHz / 1000} kHz`, format.layout].join(' · ');
}

function TraceLegend({ isLimited }: { isLimited: boolean }) {
  return (
    <span className="flex items-center gap-4">
      {isLimited ? <span>drawn without the limiter</span> : null}
      <span className="flex items-center gap-1.5">
        <i className="inline-block h-2.5 w-4 rounded-xs bg-stock-2" /> waveform
      </span>
      <span className="flex items-center gap-1.5">
        <i className="inline-block h-0.5 w-4 bg-slide-ink" /> short-term
      </span>
      <span className="flex items-center gap-1.5">
        <i className="inline-block h-px w-4 bg-slide-2" /> momentary
      </span>
      <span className="flex items-center gap-1.5">
        <i className="inline-block h-2.5 w-4 rounded-xs bg-stock-3" /> target
      </span>
      <span className="flex items-center gap-1.5">
        <i className="inline-block h-3 w-0.5 bg-breach-line" /> over
      </span>
    </span>
  );
}

function TraceArea({
  trace,
  ...props
}: Omit<Parameters<typeof TraceDrawing>[0], 'trace'> & { trace: Trace | 'failed' | undefined }) {
  if (trace === 'failed') {
    return (
      <p role="alert" style={{ height: TRACE_HEIGHT }} className="grid place-items-center text-sm text-breach">
        The trace could not be fetched. The readings are whole; reload the page to try again.
      </p>
    );
  }
  if (!trace) {
    return (
      <p style={{ height: TRACE_HEIGHT }} className="grid place-items-center text-sm text-mute">
        Drawing …
      </p>
    );
  }
  return <TraceDrawing trace={trace} {...props} />;
}

/** What a limiter leaves: as forecast, or until that has come as the last forecast moved, or else at a glance. */
function limitedShown(
  source: Readings,
  levels: Levels & { trimDb: number },
  limited: LimitedNow | 'failed' | undefined,
): Readings {
  if (typeof limited !== 'object') return glance(source, levels);
  if (limited.isSettled) return limited.limited.readings;
  return glance(limited.limited.readings, { ...levels, gainDb: levels.gainDb - limited.gainDb });
}

/** T, C, H and 0 set the gain, 1 to 3 choose a way on, unless something is being typed or chosen. */
function useKeys(
  choices: readonly GainChoice[],
  ways: readonly { key: string; levels: Levels }[],
  setGain: (gainDb: number) => void,
  commit: (levels: Levels) => void,
): void {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const target = event.target as HTMLElement;
      if (target.closest('input, textarea, select, [role="listbox"], [contenteditable]')) return;
      const choice = choices.find(({ key }) => key === event.key.toUpperCase());
      const way = ways.find(({ key }) => key === event.key);
      if (way) commit(way.levels);
      else if (choice && choice.gainDb !== null) setGain(choice.gainDb);
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [choices, ways, setGain, commit]);
}
