import { useMemo } from 'react';
import {
  Bar,
  BarChart,
  CartesianGrid,
  ReferenceArea,
  ReferenceLine,
  ResponsiveContainer,
  XAxis,
  YAxis,
} from 'recharts';
import { relativeGateLufs } from '@/core/loudness/gating';
import type { Distribution, Readings } from '@/core/loudness/readings';
import { MOMENTARY_BINS, SHORT_TERM_BINS, slidingMean } from '@/core/loudness/series';
import type { Spec } from '@/core/spec/spec';
import { dbToPower } from '@/core/units/decibel';
import { formatNumber } from '@/core/units/format';
import type { Colours } from '@/features/common/colours';
import type { Curve } from '../trace/picture';
import type { ChartTable } from './export';
import { distributionChartMessages as messages } from './messages';
import { ChartLegend, TargetWindow } from './parts';

/** Share of the time in each 1 LU of short-term loudness, before and after. */
function sharesOf(before: Distribution | null, after: Distribution | null) {
  const share = (of: Distribution | null, lufs: number) => {
    if (!of) return 0;
    const total = of.counts.reduce((sum, count) => sum + count, 0);
    return (100 * (of.counts[Math.round(lufs - Math.floor(of.fromLufs))] ?? 0)) / Math.max(1, total);
  };
  const both = [before, after].filter((of) => of !== null);
  if (both.length === 0) return [];
  const from = Math.min(...both.map(({ fromLufs }) => Math.floor(fromLufs)));
  const to = Math.max(...both.map(({ fromLufs, counts }) => Math.floor(fromLufs) + counts.length));
  return Array.from({ length: to - from }, (_, i) => ({
    lufs: from + i,
    before: share(before, from + i),
    after: share(after, from + i),
  }));
}

export function distributionTable(before: Readings, after: Readings): ChartTable {
  return {
    columns: ['short-term LUFS from', messages.beforeOfTime, messages.afterOfTime],
    rows: sharesOf(before.shortTermDistribution, after.shortTermDistribution).map((row) => [
      row.lufs,
      Number(row.before.toFixed(2)),
      Number(row.after.toFixed(2)),
    ]),
  };
}

/** How often each short-term loudness is heard, with the gates and the range of what is heard after the treatment. */
export function DistributionChart({
  before,
  after,
  power,
  spec,
  colours,
}: {
  before: Readings;
  after: Readings;
  power: Curve | null;
  spec: Spec;
  colours: Colours;
}) {
  const rows = sharesOf(before.shortTermDistribution, after.shortTermDistribution);
  const gates = useMemo(() => {
    if (!power) return null;
    const factor = dbToPower(power.gainDb);
    const gained = power.values.map((value) => value * factor);
    return {
      integrated: relativeGateLufs(slidingMean(gained, MOMENTARY_BINS), 10),
      range: relativeGateLufs(slidingMean(gained, SHORT_TERM_BINS), 20),
    };
  }, [power]);
  if (rows.length === 0) return <p className="text-sm text-mute">{messages.nothingToShow}</p>;
  const { loudnessRangeLowLufs: low, loudnessRangeHighLufs: high } = after;
  const line = (lufs: number | null | undefined, text: string) =>
    lufs == null ? null : (
      <ReferenceLine
        x={lufs}
        stroke={colours.ink}
        strokeDasharray="4 3"
        label={{ value: text, position: 'insideTopLeft', fill: colours.mute, fontSize: 11 }}
      />
    );
  return (
    <ResponsiveContainer width="100%" height={320}>
      <BarChart data={rows} margin={{ top: 18, right: 16, bottom: 18, left: 0 }} barGap={0}>
        <CartesianGrid stroke={colours.hair} vertical={false} />
        <XAxis
          dataKey="lufs"
          type="number"
          domain={['dataMin - 1', 'dataMax + 1']}
          tick={{ fill: colours.mute, fontSize: 11 }}
          tickFormatter={(value: number) => formatNumber(value, 0)}
          label={{
            value: messages.shortTermLoudness,
            position: 'insideBottom',
            offset: -8,
            fill: colours.mute,
            fontSize: 11,
          }}
        />
        <YAxis unit=" %" width={48} tick={{ fill: colours.mute, fontSize: 11 }} />
        {low !== null && high !== null ? (
          <ReferenceArea
            x1={low}
            x2={high}
            fill={colours['slide-1']}
            stroke={colours['slide-2']}
            label={{
              value: messages.range(formatNumber(high - low)),
              position: 'insideTop',
              fill: colours['slide-ink'],
              fontSize: 11,
            }}
          />
        ) : null}
        {spec.loudness?.measure === 'integrated' ? <TargetWindow spec={spec} axis="x" colours={colours} /> : null}
        <Bar
          dataKey="before"
          name="before"
          fill={colours['stock-2']}
          stroke={colours['stock-3']}
          isAnimationActive={false}
        />
        <Bar dataKey="after" name="after" fill={colours['slide-ink']} isAnimationActive={false} />
        {line(gates?.integrated, messages.gateOfIntegrated)}
        {line(gates?.range, messages.gateOfRange)}
        <ChartLegend colours={colours} />
      </BarChart>
    </ResponsiveContainer>
  );
}
