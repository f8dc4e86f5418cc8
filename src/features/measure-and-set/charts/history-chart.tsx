import { CartesianGrid, Line, LineChart, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { loudnessCurve, SHORT_TERM_BINS } from '@/core/loudness/series';
import type { Spec } from '@/core/spec/spec';
import type { Timeline } from '@/core/treatment/timeline';
import { formatNumber, formatTime } from '@/core/units/format';
import { BINS_PER_SECOND } from '@/core/units/frames';
import type { Colours } from '@/features/common/colours';
import type { Trace } from '@/features/common/use-trace';
import type { Curve } from '../trace/picture';
import type { ChartTable } from './export';
import { historyChartMessages as messages } from './messages';
import { ChartLegend, TargetWindow } from './parts';

/** Points of a curve: more than the chart has pixels to tell apart. */
const MOST_POINTS = 600;
const FLOOR_LUFS = -60;

/** Short-term loudness before and after, by the time of the source; of every part the loudest. */
export function historyTable(trace: Trace | null, power: Curve | null, timeline: Timeline, rateHz: number): ChartTable {
  const columns = ['second', 'before LUFS', 'after LUFS'];
  if (!trace) return { columns, rows: [] };
  const { shortTerm } = trace;
  const after = power && loudnessCurve(power.values, SHORT_TERM_BINS, power.gainDb);
  const shift = Math.round((timeline.startFrame / rateHz) * BINS_PER_SECOND);
  const stride = Math.max(1, Math.ceil(shortTerm.length / MOST_POINTS));
  const most = (values: Float32Array | null, start: number) => {
    const own = values?.subarray(Math.max(0, start), Math.max(0, start + stride)).filter(Number.isFinite) ?? [];
    return own.length === 0 ? null : Number(Math.max(...own).toFixed(2));
  };
  return {
    columns,
    rows: Array.from({ length: Math.ceil(shortTerm.length / stride) }, (_, i) => {
      const start = i * stride;
      return [start / BINS_PER_SECOND, most(shortTerm, start), most(after, start - shift)];
    }),
  };
}

export function HistoryChart({ table, spec, colours }: { table: ChartTable; spec: Spec; colours: Colours }) {
  const rows = table.rows.map(([second, before, after]) => ({ second, before, after }));
  return (
    <ResponsiveContainer width="100%" height={320}>
      <LineChart data={rows} margin={{ top: 8, right: 16, bottom: 18, left: 0 }}>
        <CartesianGrid stroke={colours.hair} vertical={false} />
        <XAxis
          dataKey="second"
          type="number"
          domain={['dataMin', 'dataMax']}
          tick={{ fill: colours.mute, fontSize: 11 }}
          tickFormatter={(value: number) => formatTime(value)}
          label={{
            value: messages.timeOfTheSource,
            position: 'insideBottom',
            offset: -8,
            fill: colours.mute,
            fontSize: 11,
          }}
        />
        <YAxis
          width={48}
          domain={[FLOOR_LUFS, 0]}
          allowDataOverflow
          tick={{ fill: colours.mute, fontSize: 11 }}
          tickFormatter={(value: number) => formatNumber(value, 0)}
        />
        {spec.loudness?.measure === 'integrated' ? <TargetWindow spec={spec} axis="y" colours={colours} /> : null}
        <Line
          dataKey="before"
          name="before"
          stroke={colours.mute}
          strokeDasharray="4 3"
          dot={false}
          isAnimationActive={false}
        />
        <Line
          dataKey="after"
          name="after"
          stroke={colours['slide-ink']}
          strokeWidth={2}
          dot={false}
          isAnimationActive={false}
        />
        <ChartLegend colours={colours} />
      </LineChart>
    </ResponsiveContainer>
  );
}
