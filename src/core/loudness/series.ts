import type { PeakSeries } from '../peak/overs';
import { BINS_PER_SECOND, gridFrame } from '../units/frames';
import { powerToLufs } from './gating';

/** Bins of 100 ms in the momentary (400 ms) and short-term (3 s) windows. */
export const MOMENTARY_BINS = 4;
export const SHORT_TERM_BINS = 30;

/** What is kept of a programme for every 100 ms, to answer later questions without touching the audio. */
export interface Series {
  /** Loudness-weighted mean square of all channels, for every complete 100 ms. */
  weightedPower: Float64Array;
  /** Per channel, its K-weighted mean square, for every complete 100 ms. */
  energies: Float64Array[];
  /** Per channel, true peak (linear) of every 100 ms, an incomplete last one included. */
  truePeaks: Float32Array[];
  /** Per channel, frames from the start of each 100 ms to its true peak. */
  truePeakOffsets: Uint16Array[];
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

/** A series cut for a screen: of every column, the greatest. */
export interface ColumnSeries extends PeakSeries {
  /** Intervals of 100 ms in each column. */
  binsPerColumn: number;
  shortTermLufs: Float32Array;
  momentaryLufs: Float32Array;
}

/** Cuts a series to at most so many columns, each of the same whole number of 100 ms. */
export function seriesColumns(series: Series, sampleRateHz: number, mostColumns: number): ColumnSeries {
  const bins = series.truePeaks[0]?.length ?? 0;
  const binsPerColumn = Math.max(1, Math.ceil(bins / mostColumns));
  const peaks: Float32Array[] = [];
  const frames: Float64Array[] = [];
  series.truePeaks.forEach((channelPeaks, channel) => {
    const best = greatestOfColumns(channelPeaks, binsPerColumn);
    peaks.push(Float32Array.from(best, (bin) => channelPeaks[bin] as number));
    const offsets = series.truePeakOffsets[channel] as Uint16Array;
    const frameOf = (bin: number) => gridFrame(bin, BINS_PER_SECOND, sampleRateHz) + (offsets[bin] as number);
    frames.push(Float64Array.from(best, frameOf));
  });
  const cut = (windowBins: number) => {
    const curve = loudnessCurve(series.weightedPower, windowBins);
    return Float32Array.from(greatestOfColumns(curve, binsPerColumn), (bin) => curve[bin] as number);
  };
  return { binsPerColumn, shortTermLufs: cut(SHORT_TERM_BINS), momentaryLufs: cut(MOMENTARY_BINS), peaks, frames };
}

/** Where the greatest value of each column stands; NaN is less than anything. */
function greatestOfColumns(values: ArrayLike<number>, width: number): number[] {
  return Array.from({ length: Math.ceil(values.length / width) }, (_, column) => {
    let best = column * width;
    for (let i = best + 1; i < Math.min(values.length, (column + 1) * width); i++) {
      if ((values[i] as number) > (values[best] as number) || Number.isNaN(values[best])) best = i;
    }
    return best;
  });
}
