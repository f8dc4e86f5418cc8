import type { PeakSeries } from '../peak/overs';
import { BINS_PER_SECOND, gridFrame } from '../units/frames';
import { ABSOLUTE_GATE_LUFS, powerToLufs } from './gating';

/** Bins of 100 ms in the momentary (400 ms) and short-term (3 s) windows. */
export const MOMENTARY_BINS = 4;
export const SHORT_TERM_BINS = 30;
/** As in gating; classes reach up to what no programme is. */
const RELATIVE_GATE_LU = 10;
const MOST_LUFS = 20;
const CLASSES_PER_LU = 10;

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

/**
 * Means of `bins` successive values; the n-th result ends with value n + bins − 1. Empty where there are too few. A window
 * is the end of one run of `bins` values and the beginning of the next, so that each costs the same however wide it is, and
 * nothing is ever subtracted.
 */
export function slidingMean(values: ArrayLike<number>, bins: number): Float64Array {
  const means = new Float64Array(Math.max(0, values.length - bins + 1));
  const endings = new Float64Array(bins);
  for (let start = 0; start < means.length; start += bins) {
    let ending = 0;
    for (let i = bins - 1; i >= 0; i--) {
      ending += values[start + i] ?? 0;
      endings[i] = ending;
    }
    let beginning = 0;
    const end = Math.min(bins, means.length - start);
    for (let i = 0; i < end; i++) {
      if (i > 0) beginning += values[start + bins + i - 1] ?? 0;
      means[start + i] = ((endings[i] ?? 0) + beginning) / bins;
    }
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

/**
 * Integrated loudness in LUFS of everything up to the end of every 100 ms, NaN until something passes the gates: a curve to
 * be drawn. Blocks are counted in classes of a tenth of an LU, so that it is good to half of that.
 */
export function integratedCurve(weightedPower: ArrayLike<number>): Float32Array {
  const curve = new Float32Array(weightedPower.length).fill(Number.NaN);
  const classes = Math.ceil((MOST_LUFS - ABSOLUTE_GATE_LUFS) * CLASSES_PER_LU);
  const powers = new Float64Array(classes);
  const counts = new Float64Array(classes);
  let [sum, count] = [0, 0];
  slidingMean(weightedPower, MOMENTARY_BINS).forEach((power, i) => {
    const lufs = powerToLufs(power) ?? Number.NEGATIVE_INFINITY;
    if (lufs >= ABSOLUTE_GATE_LUFS) {
      const own = Math.min(classes - 1, Math.floor((lufs - ABSOLUTE_GATE_LUFS) * CLASSES_PER_LU));
      powers[own] = (powers[own] ?? 0) + power;
      counts[own] = (counts[own] ?? 0) + 1;
      sum += power;
      count++;
    }
    if (count === 0) return;
    const gateLufs = Math.max(ABSOLUTE_GATE_LUFS, (powerToLufs(sum / count) as number) - RELATIVE_GATE_LU);
    let [gatedSum, gatedCount] = [0, 0];
    for (let c = Math.floor((gateLufs - ABSOLUTE_GATE_LUFS) * CLASSES_PER_LU); c < classes; c++) {
      gatedSum += powers[c] ?? 0;
      gatedCount += counts[c] ?? 0;
    }
    if (gatedCount > 0) curve[i + MOMENTARY_BINS - 1] = powerToLufs(gatedSum / gatedCount) ?? Number.NaN;
  });
  return curve;
}

/** A series' peaks cut for a screen: of every column, the greatest. */
export interface PeakColumns extends PeakSeries {
  /** Intervals of 100 ms in each column. */
  binsPerColumn: number;
}

/** Cuts a series' peaks to at most so many columns, each of the same whole number of 100 ms. */
export function peakColumns(series: Series, sampleRateHz: number, mostColumns: number): PeakColumns {
  const bins = series.truePeaks[0]?.length ?? 0;
  const binsPerColumn = Math.max(1, Math.ceil(bins / mostColumns));
  const peaks: Float32Array[] = [];
  const frames: Float64Array[] = [];
  series.truePeaks.forEach((channelPeaks, channel) => {
    const best = greatestOfColumns(channelPeaks, binsPerColumn);
    peaks.push(Float32Array.from(best, (bin) => channelPeaks[bin] ?? 0));
    const offsets = series.truePeakOffsets[channel] as Uint16Array;
    const frameOf = (bin: number) => gridFrame(bin, BINS_PER_SECOND, sampleRateHz) + (offsets[bin] as number);
    frames.push(Float64Array.from(best, frameOf));
  });
  return { binsPerColumn, peaks, frames };
}

/** Where the greatest value of each column stands; NaN is less than anything. */
function greatestOfColumns(values: ArrayLike<number>, width: number): number[] {
  return Array.from({ length: Math.ceil(values.length / width) }, (_, column) => {
    let best = column * width;
    for (let i = best + 1; i < Math.min(values.length, (column + 1) * width); i++) {
      if ((values[i] ?? 0) > (values[best] ?? 0) || Number.isNaN(values[best])) best = i;
    }
    return best;
  });
}
