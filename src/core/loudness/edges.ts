import { BINS_PER_SECOND } from '../units/frames';

/** What stands ahead of a programme's first sound and behind its last. */
export interface Edges {
  headSeconds: number;
  tailSeconds: number;
}

/** A 100 ms this far above the quietest belongs to the programme; no document says how far, the number is ours. */
const ABOVE_QUIETEST_DB = 12;
/** A quietest below this is silence: what stands above that is heard. */
const QUIETEST_POWER = 1e-8;

/**
 * The time before the first 100 ms that is heard, and after the last: those well above the quietest half-second of the
 * whole. Of a programme that is never quiet, or of nothing, both are 0.
 *
 * @param weightedPower loudness-weighted mean square of every 100 ms
 */
export function edgesOf(weightedPower: ArrayLike<number>): Edges {
  const bins = weightedPower.length;
  let quietest = Number.POSITIVE_INFINITY;
  const half = BINS_PER_SECOND / 2;
  for (let i = 0, sum = 0; i < bins; i++) {
    sum += (weightedPower[i] as number) - (i >= half ? (weightedPower[i - half] as number) : 0);
    if (i >= half - 1) quietest = Math.min(quietest, Math.max(0, sum) / half);
  }
  const heard = Math.max(QUIETEST_POWER, quietest) * 10 ** (ABOVE_QUIETEST_DB / 10);
  let first = 0;
  while (first < bins && (weightedPower[first] as number) <= heard) first++;
  if (first === bins) return { headSeconds: 0, tailSeconds: 0 };
  let last = bins - 1;
  while ((weightedPower[last] as number) <= heard) last--;
  return { headSeconds: first / BINS_PER_SECOND, tailSeconds: (bins - 1 - last) / BINS_PER_SECOND };
}
