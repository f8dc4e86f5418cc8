import { CartesianGrid, ReferenceLine, ResponsiveContainer, Scatter, ScatterChart, XAxis, YAxis } from 'recharts';
import type { Readings } from '@/core/loudness/readings';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { specPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import type { Level } from '@/core/units/decibel';
import { formatNumber } from '@/core/units/format';
import type { Colours } from '@/features/common/colours';
import type { ProgrammeItem } from '@/server/jobs/programme-list';
import type { ChartTable } from './export';
import { programmesChartMessages as messages } from './messages';
import { ChartLegend, TargetWindow } from './parts';

const ROW_HEIGHT = 22;
const LABEL_LENGTH = 24;

/** The job's programmes as their treatments leave them. */
export function programmesTable(
  programmes: readonly ProgrammeItem[],
  currentId: string,
  current: Readings,
  spec: Spec,
): ChartTable {
  const rounded = (level: Level) => (level === null ? null : Number(level.toFixed(2)));
  return {
    columns: ['programme', spec.loudness?.measure === 'rms' ? 'RMS dBFS' : 'integrated LUFS', messages.peakDB],
    rows: programmes.flatMap(({ id, title, treated }) => {
      if (!treated) return [];
      const after = id === currentId ? current : treated.levels;
      return [[title, rounded(specLoudness(after, spec)), rounded(specPeak(after, spec))]];
    }),
  };
}

/** Every programme's loudness and peak against one spec. */
export function ProgrammesChart({ table, spec, colours }: { table: ChartTable; spec: Spec; colours: Colours }) {
  const points = (column: 1 | 2) =>
    table.rows.flatMap((row, i) => {
      const level = row[column];
      return typeof level === 'number' ? [{ level, row: i }] : [];
    });
  const limit = spec.peak.ceiling + spec.peak.allowanceDb + 0.001;
  const peaks = points(2);
  const height = table.rows.length * ROW_HEIGHT + 70;
  const short = (text: string) => (text.length > LABEL_LENGTH ? `${text.slice(0, LABEL_LENGTH - 1)}…` : text);
  return (
    <div className="max-h-[52vh] overflow-y-auto">
      <ResponsiveContainer width="100%" height={height}>
        <ScatterChart margin={{ top: 8, right: 16, bottom: 18, left: 8 }}>
          <CartesianGrid stroke={colours.hair} horizontal={false} />
          <XAxis
            dataKey="level"
            type="number"
            orientation="top"
            domain={[-48, 6]}
            ticks={[-48, -42, -36, -30, -24, -18, -12, -6, 0, 6]}
            allowDataOverflow
            tick={{ fill: colours.mute, fontSize: 11 }}
            tickFormatter={(value: number) => formatNumber(value, 0)}
          />
          <YAxis
            dataKey="row"
            type="number"
            reversed
            width={150}
            domain={[-0.5, table.rows.length - 0.5]}
            ticks={table.rows.map((_, i) => i)}
            interval={0}
            tick={{ fill: colours.ink, fontSize: 11 }}
            tickFormatter={(row: number) => short(`${table.rows[row]?.[0] ?? ''}`)}
          />
          <TargetWindow spec={spec} axis="x" colours={colours} />
          <ReferenceLine x={spec.peak.ceiling} stroke={colours.ink} strokeWidth={1.5} />
          <Scatter
            name="loudness"
            data={points(1)}
            fill={colours['slide-ink']}
            shape="diamond"
            isAnimationActive={false}
          />
          <Scatter
            name="peak"
            data={peaks.filter(({ level }) => level <= limit)}
            fill={colours['stock-3']}
            shape="square"
            isAnimationActive={false}
          />
          <Scatter
            name="peak over the ceiling"
            data={peaks.filter(({ level }) => level > limit)}
            fill={colours['breach-line']}
            shape="triangle"
            isAnimationActive={false}
          />
          <ChartLegend colours={colours} />
        </ScatterChart>
      </ResponsiveContainer>
    </div>
  );
}
