import type { Readings } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';
import { limitName } from '@/core/treatment/limit-name';
import { limitDistances } from '@/core/treatment/nearest-limit';
import { formatNumber } from '@/core/units/format';

/** Which limit of a spec is met first when the gain goes up, and how it lies to the target. */
export function nearestText(treated: Readings, spec: Spec, isLimited: boolean): string {
  const distances = limitDistances(treated, spec, isLimited);
  const target = distances.find(({ limit }) => limit === 'target');
  const stop = distances.find(({ limit }) => limit !== 'target');
  if (!stop) return target ? `${dB(target.leftDb)} to the target` : 'no level to move';
  const name = limitName(stop.limit);
  if (!target) return stop.leftDb >= 0 ? `${dB(stop.leftDb)} to ${name}` : `${dB(-stop.leftDb)} past ${name}`;
  const gap = stop.leftDb - target.leftDb;
  if (stop.limit === 'ceiling') {
    if (gap < -0.005) return `at the target, peaks would be ${dB(-gap)} over the ceiling`;
    return `${dB(gap)} of headroom at the target`;
  }
  if (gap < -0.005) return `at the target, ${dB(-gap)} past ${name}`;
  return `at the target, ${dB(gap)} left to ${name}`;
}

function dB(value: number): string {
  return `${formatNumber(value)} dB`;
}
