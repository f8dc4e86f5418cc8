import { powerToLufs } from './gating';

/** Bins of 100 ms in the momentary (400 ms) and short-term (3 s) windows. */
export const MOMENTARY_BINS = 4;
export const SHORT_TERM_BINS = 30;

/** What is kept of a programme for every 100 ms, to answer later questions without touching the audio. */
export interface Series {
  /** Loudness-weighted mean square of all channels, for every complete 100 ms. */
  weightedPower: Float64Array;
  /** Per channel, true peak (linear) of every 100 ms, an incomplete last one included, and the frame of each. */
  truePeaks: Float32Array[];
  truePeakFrames: Float64Array[];
}

/** Means of `bins` successive values; the n-th result ends with value n + bins − 1. Empty where there are too few. */
export function slidingMean(values: ArrayLike<number>, bins: number): Float64Array {
  const means = new Float64Array(Math.max(0, values.length - bins + 1));
  for (let i = 0; i < means.length; i++) {
    let sum = 0;
    for (let j = i; j < i + bins; j++) sum += values[j] as number;
    means[i] = sum / bins;
  }
  return means;
}

/**
 * Loudness in LUFS at the end of every 100 ms over the last `bins` of them, NaN until the first window is full and
 * −Infinity in silence: a curve to be drawn, not a reading.
 */
export function loudnessCurve(weightedPower: ArrayLike<number>, bins: number, gainDb = 0): Float32Array {
  const curve = new Float32Array(weightedPower.length).fill(Number.NaN);
  slidingMean(weightedPower, bins).forEach((power, i) => {
    const lufs = powerToLufs(power);
    curve[i + bins - 1] = lufs === null ? Number.NEGATIVE_INFINITY : lufs + gainDb;
  });
  return curve;
}
