import type { Readings } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';
import { specPeak } from '@/core/spec/verdict';
import type { GainSolution } from '@/core/treatment/solver';
import { formatGain, formatLevel, formatNumber, formatSampleRate } from '@/core/units/format';
import type { AudioFormat } from '@/formats/audio-format';
import { Card } from '@/ui/card';

/** The treatment in plain words: the gain, what it does to the headroom, and what is written. */
export function TreatmentCard({
  version,
  isWritten,
  gainDb,
  spec,
  treated,
  solution,
  format,
}: {
  version: number;
  isWritten: boolean;
  gainDb: number;
  spec: Spec;
  treated: Readings;
  solution: GainSolution | null;
  format: AudioFormat;
}) {
  const peak = specPeak(treated, spec);
  const headroomDb = peak === null ? null : spec.peak.ceiling - peak;
  return (
    <Card
      title="Treatment"
      remark={version === 0 ? 'nothing set yet' : `v${version}${isWritten ? ' · written' : ''}`}
      className="min-w-0"
    >
      <dl className="grid grid-cols-[auto_1fr] text-[13px] leading-[18px] [&>dd]:border-b [&>dd]:border-hair [&>dd]:py-1 [&>dd]:text-right [&>dt]:border-b [&>dt]:border-hair [&>dt]:py-1 [&>dt]:font-semibold">
        <dt>Gain</dt>
        <dd className="font-mono">{formatGain(gainDb, 2)}</dd>
        <dt>Room to the ceiling</dt>
        <dd className="font-mono">{headroomDb === null ? '◌' : formatLevel(headroomDb, 'dB')}</dd>
        <dt>Gain alone reaches</dt>
        <dd>{solution ? reachText(solution, spec) : '◌ nothing to move'}</dd>
        <dt>Left as it is</dt>
        <dd className="text-mute">
          {formatSampleRate(format.sampleRateHz)}, {format.layout}
        </dd>
        <dt>Limiter</dt>
        <dd className="text-mute">none</dd>
        <dt>Written as</dt>
        <dd className="text-mute">24-bit WAV, no dither</dd>
      </dl>
      {isWritten ? (
        <p className="mt-1.5 text-xs text-mute">A file was written from v{version}: a change makes the next.</p>
      ) : null}
    </Card>
  );
}

function reachText({ gainDb, binding, shortfallLu }: GainSolution, spec: Spec) {
  const at = <span className="font-mono">{formatGain(gainDb)}</span>;
  if (binding === 'target') return <>the target at {at}</>;
  const limit = binding === 'ceiling' ? 'the ceiling' : 'the short-term limit';
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
