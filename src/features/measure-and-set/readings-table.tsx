import type { Readings } from '@/core/loudness/readings';
import type { Verdict } from '@/core/spec/assessment';
import type { Level } from '@/core/units/decibel';
import { formatNumber, type Unit } from '@/core/units/format';
import { StateMark } from '@/features/common/state-mark';
import type { AudioFormat } from '@/formats/audio-format';
import { Card } from '@/ui/card';
import { Hint } from '@/ui/hint';
import { PerChannel } from './per-channel';

interface Row {
  name: string;
  key: keyof Readings;
  unit: Unit;
  hint: string;
}

const ROWS: readonly Row[] = [
  {
    name: 'Integrated',
    key: 'integratedLufs',
    unit: 'LUFS',
    hint: 'Gated loudness of the whole programme (ITU-R BS.1770).',
  },
  {
    name: 'On two speakers',
    key: 'integratedAsTwoSpeakersLufs',
    unit: 'LUFS',
    hint: 'Integrated loudness when both of two loudspeakers play this mono programme.',
  },
  {
    name: 'True peak',
    key: 'truePeakDbtp',
    unit: 'dBTP',
    hint: 'Highest point of the reconstructed signal, 16 times oversampled.',
  },
  { name: 'Sample peak', key: 'samplePeakDbfs', unit: 'dBFS', hint: 'Highest sample.' },
  { name: 'Short-term max', key: 'maxShortTermLufs', unit: 'LUFS', hint: 'Loudest 3 s, ungated.' },
  { name: 'Momentary max', key: 'maxMomentaryLufs', unit: 'LUFS', hint: 'Loudest 400 ms, ungated.' },
  {
    name: 'Loudness range',
    key: 'loudnessRangeLu',
    unit: 'LU',
    hint: '10th to 95th percentile of short-term loudness (EBU Tech 3342).',
  },
  {
    name: 'PLR',
    key: 'peakToLoudnessLu',
    unit: 'LU',
    hint: 'Peak-to-loudness ratio: true peak minus integrated loudness.',
  },
  {
    name: 'RMS',
    key: 'rmsDbfs',
    unit: 'dBFS',
    hint: 'Whole programme, all channels, re full-scale peak: a full-scale sine reads −3.01.',
  },
  {
    name: 'Noise floor',
    key: 'noiseFloorDbfs',
    unit: 'dBFS',
    hint: 'RMS of the quietest half-second that holds no digital silence, unweighted, re full-scale peak.',
  },
];

/** Source → after treatment, with the verdict on each value that the spec asks for. */
export function ReadingsTable({
  before,
  after,
  verdict,
  gainDb,
  format,
  layoutId,
  sha256,
}: {
  before: Readings;
  after: Readings;
  verdict: Verdict;
  gainDb: number;
  format: AudioFormat;
  layoutId: string | null;
  sha256: string;
}) {
  return (
    <Card
      dense
      title="Readings"
      remark={
        <span className="whitespace-nowrap">
          source → treated ·{' '}
          <PerChannel source={before} gainDb={gainDb} format={format} layoutId={layoutId} sha256={sha256} />
        </span>
      }
      className="min-w-0"
    >
      <table className="w-full text-[13px] leading-[17px]">
        <thead className="sr-only">
          <tr>
            <th>Reading</th>
            <th>Source</th>
            <th>After treatment</th>
            <th>Unit</th>
            <th>Verdict</th>
          </tr>
        </thead>
        <tbody>
          {ROWS.filter(({ key }) => key !== 'integratedAsTwoSpeakersLufs' || before[key] !== null).map((row) => {
            const item = verdict.items.find(({ reading }) => reading === row.key);
            const from = before[row.key] as Level;
            const to = after[row.key] as Level;
            return (
              <tr key={row.key} className="border-b border-hair last:border-0">
                <th scope="row" className="py-px text-left font-normal whitespace-nowrap">
                  <Hint text={row.hint}>
                    <button type="button" className="cursor-help rounded-sm">
                      {row.name}
                    </button>
                  </Hint>
                </th>
                <td className="w-14 text-right font-mono text-mute" title={exact(from, row.unit)}>
                  {value(from)}
                </td>
                <td className="w-6 text-center text-mute" aria-hidden>
                  →
                </td>
                <td
                  className="w-14 text-right font-mono font-bold"
                  title={exact(to, row.unit) + rangeEnds(row.key, after)}
                >
                  {value(to)}
                </td>
                <td className="w-12 pl-2 font-mono text-xs text-mute">{row.unit}</td>
                <td className="w-6 text-right">{item ? <StateMark state={item.state} /> : null}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Card>
  );
}

/** The range's own ends, beside it. */
function rangeEnds(key: keyof Readings, { loudnessRangeLowLufs: low, loudnessRangeHighLufs: high }: Readings): string {
  if (key !== 'loudnessRangeLu' || low === null || high === null) return '';
  return `, from ${formatNumber(low, 2)} to ${formatNumber(high, 2)} LUFS`;
}

function value(level: Level): string {
  return level === null ? '◌' : formatNumber(level);
}

function exact(level: Level, unit: Unit): string {
  return level === null ? 'nothing to measure: silence, or too short' : `${formatNumber(level, 2)} ${unit}`;
}
