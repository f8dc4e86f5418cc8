import type { ReactNode } from 'react';
import type { Readings } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';
import { specPeak } from '@/core/spec/verdict';
import { limitName } from '@/core/treatment/limit-name';
import type { Answers } from '@/core/treatment/limited-solver';
import type { GainSolution } from '@/core/treatment/solver';
import type { Levels } from '@/core/treatment/treatment';
import { formatGain, formatLevel, formatNumber, formatSampleRate } from '@/core/units/format';
import { AnswerList } from '@/features/common/answer-list';
import type { LimitedNow } from '@/features/common/use-limiter';
import type { AudioFormat } from '@/formats/audio-format';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';

/** The treatment in plain words: the gain, what it does to the headroom, the limiter, and what is written. */
export function TreatmentCard({
  version,
  isWritten,
  levels,
  spec,
  treated,
  solution,
  limited,
  answers,
  onChoose,
  format,
}: {
  version: number;
  isWritten: boolean;
  levels: Levels;
  spec: Spec;
  treated: Readings;
  solution: GainSolution | null;
  limited: LimitedNow | 'failed' | undefined;
  /** Null where the ceiling stops nothing. */
  answers: Answers | null | 'failed' | undefined;
  onChoose: (levels: Levels) => void;
  format: AudioFormat;
}) {
  const peak = specPeak(treated, spec);
  const headroomDb = peak === null ? null : spec.peak.ceiling - peak;
  const { gainDb, limit } = levels;
  return (
    <Card
      title="Treatment"
      remark={version === 0 ? 'nothing set yet' : `v${version}${isWritten ? ' · written' : ''}`}
      className="min-w-0"
    >
      <dl className="grid grid-cols-[auto_1fr] text-[13px] leading-[18px] [&>dd]:border-b [&>dd]:border-hair [&>dd]:py-1 [&>dd]:text-right [&>dt]:border-b [&>dt]:border-hair [&>dt]:py-1 [&>dt]:font-semibold">
        <dt>Gain</dt>
        <dd className="font-mono">{formatGain(gainDb, 2)}</dd>
        <dt>Limiter</dt>
        <dd className={limit ? '' : 'text-mute'}>
          {limit ? (
            <>
              {limitText(limit.ceilingDbtp, limited)}{' '}
              <Button kind="inline" onClick={() => onChoose({ gainDb, limit: null })}>
                turn off
              </Button>
            </>
          ) : (
            'none'
          )}
        </dd>
        {answers === null ? (
          <>
            <dt>Room to the ceiling</dt>
            <dd className="font-mono">{headroomDb === null ? '◌' : formatLevel(headroomDb, 'dB')}</dd>
            <dt>Gain alone reaches</dt>
            <dd>{solution ? reachText(solution, spec) : '◌ nothing to move'}</dd>
            <dt>Written as</dt>
            <dd className="text-mute">24-bit WAV, {formatSampleRate(format.sampleRateHz)}</dd>
          </>
        ) : null}
      </dl>
      {answers === null ? null : (
        <div className="mt-2">
          <AnswerList answers={answers} spec={spec} levels={levels} onChoose={onChoose} withKeys />
        </div>
      )}
      {isWritten ? (
        <p className="mt-1.5 text-xs text-mute">A file was written from v{version}: a change makes the next.</p>
      ) : null}
    </Card>
  );
}

function limitText(ceilingDbtp: number, limited: LimitedNow | 'failed' | undefined): ReactNode {
  const at = `at ${formatLevel(ceilingDbtp, 'dBTP')}`;
  if (typeof limited !== 'object') return limited === 'failed' ? `${at}, cost not known` : `${at} …`;
  const { greatestDb } = limited.limited.reduction;
  if (greatestDb === 0) return `${at}, nothing to do`;
  return (
    <>
      {at}, <span className="font-mono text-xs">{formatNumber(-greatestDb)} dB</span> at most
    </>
  );
}

function reachText({ gainDb, binding, shortfallLu }: GainSolution, spec: Spec) {
  const at = <span className="font-mono">{formatGain(gainDb)}</span>;
  if (binding === 'target') return <>the target at {at}</>;
  const limit = limitName(binding);
  if (!spec.loudness || shortfallLu < 0.005) {
    return (
      <>
        {limit} at {at}
      </>
    );
  }
  return (
    <>
      {limit} at {at}, <span className="font-mono">{formatNumber(shortfallLu)} LU</span> short
    </>
  );
}
