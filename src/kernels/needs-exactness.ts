import type { Segment } from '@/core/loudness/segment';
import { BINS_PER_SECOND, TICKS_PER_SECOND } from '@/core/units/frames';

/** Bins back to where what was loud may still be in the filters' states. */
const MEMORY_BINS = 3;
/** Weighted energy less than this part of what has gone in is not exact to 1e-5 dB in f32. */
const LEAST_PART = 1e-3;
const TICKS_PER_BIN = TICKS_PER_SECOND / BINS_PER_SECOND;

/**
 * Whether some 100 ms are so much quieter, once weighted, than what has been heard up to them, that rounding in f32
 * tells: behind a click, under a great offset, where all is below hearing.
 */
export function needsExactness({ channels }: Segment): boolean {
  return channels.some(({ ticks, tickSquares }) => fallsFar(ticks, tickSquares));
}

function fallsFar(ticks: Float64Array, tickSquares: Float64Array): boolean {
  const peaks = new Float64Array(MEMORY_BINS + 1);
  for (let t = 0, bin = 0; t < ticks.length; bin++) {
    const end = Math.min(ticks.length, t + TICKS_PER_BIN);
    let energy = 0;
    let peak = 0;
    for (; t < end; t++) {
      const square = tickSquares[t] as number;
      energy += ticks[t] as number;
      if (square > peak) peak = square;
    }
    peaks[bin % peaks.length] = peak;
    let heard = peak;
    for (let i = 0; i < peaks.length; i++) if ((peaks[i] as number) > heard) heard = peaks[i] as number;
    if (energy < heard * TICKS_PER_BIN * LEAST_PART) return true;
  }
  return false;
}
