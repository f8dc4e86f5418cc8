import { type NamedReading, READING_NAMES } from '@/core/loudness/reading-names';
import type { Readings } from '@/core/loudness/readings';
import type { Verdict } from '@/core/spec/assessment';
import type { Level } from '@/core/units/decibel';
import { formatNumber, type Unit } from '@/core/units/format';
import { StateMark } from '@/features/common/state-mark';
import type { AudioFormat } from '@/formats/audio-format';
import { Card } from '@/ui/card';
import { Hint } from '@/ui/hint';
import { readingsTableMessages as messages } from './messages';
import { PerChannel } from './per-channel';

/** In the order in which they are listed. */
const HINTS = {
  integratedLufs: messages.integratedHint,
  integratedAsTwoSpeakersLufs: messages.onTwoSpeakersHint,
  truePeakDbtp: messages.truePeakHint,
  samplePeakDbfs: messages.samplePeakHint,
  maxShortTermLufs: messages.shortTermMaxHint,
  maxMomentaryLufs: messages.momentaryMaxHint,
  loudnessRangeLu: messages.loudnessRangeHint,
  peakToLoudnessLu: messages.plrHint,
  rmsDbfs: messages.rmsHint,
  noiseFloorDbfs: messages.noiseFloorHint,
} as const satisfies Record<NamedReading, string>;

const ROWS = (Object.keys(HINTS) as NamedReading[]).map((key) => ({ key, ...READING_NAMES[key], hint: HINTS[key] }));

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
      title={messages.readings}
      remark={
        <span className="whitespace-nowrap">
          {messages.sourceTreated}{' '}
          <PerChannel source={before} gainDb={gainDb} format={format} layoutId={layoutId} sha256={sha256} />
        </span>
      }
      className="min-w-0"
    >
      <table className="w-full text-[13px] leading-[17px]">
        <thead className="sr-only">
          <tr>
            <th>{messages.reading}</th>
            <th>{messages.source}</th>
            <th>{messages.afterTreatment}</th>
            <th>{messages.unit}</th>
            <th>{messages.verdict}</th>
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
  return messages.rangeEnds(formatNumber(low, 2), formatNumber(high, 2));
}

function value(level: Level): string {
  return level === null ? '◌' : formatNumber(level);
}

function exact(level: Level, unit: Unit): string {
  return level === null ? messages.nothingToMeasure : `${formatNumber(level, 2)} ${unit}`;
}
