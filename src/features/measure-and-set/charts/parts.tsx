import { Legend, ReferenceArea } from 'recharts';
import type { Spec } from '@/core/spec/spec';
import type { Colours } from '@/features/common/colours';

/** What each colour is, in words that can be read. */
export function ChartLegend({ colours }: { colours: Colours }) {
  return (
    <Legend
      verticalAlign="top"
      height={24}
      wrapperStyle={{ fontSize: 12 }}
      formatter={(name) => <span style={{ color: colours.ink }}>{name}</span>}
    />
  );
}

/** The window of a spec's loudness, along one of the axes. */
export function TargetWindow({ spec, axis, colours }: { spec: Spec; axis: 'x' | 'y'; colours: Colours }) {
  if (!spec.loudness) return null;
  const { target, toleranceAbove, toleranceBelow } = spec.loudness;
  const [from, to] = [target - toleranceBelow, target + toleranceAbove];
  const edges = axis === 'x' ? { x1: from, x2: to } : { y1: from, y2: to };
  return <ReferenceArea {...edges} fill={colours['stock-3']} fillOpacity={0.5} stroke={colours['stock-ink']} />;
}
