import { amplitudeToDb, dbToPower, type Level } from '../units/decibel';
import { BINS_PER_SECOND, gridFrame } from '../units/frames';
import { integratedLufs, type LoudnessRange, loudnessRange, powerToLufs } from './gating';
import { MOMENTARY_BINS, type Series, SHORT_TERM_BINS, slidingMean } from './series';

/** What can be said of a stretch of sound from its kept energies alone. */
export interface SpanReading {
  integratedLufs: Level;
  range: LoudnessRange | null;
  /** Sought every 100 ms from the span's start. */
  maxMomentaryLufs: Level;
  maxShortTermLufs: Level;
  truePeakDbtp: Level;
}

/**
 * Reads a span of a measured programme, after a gain, without touching its audio. On 100 ms edges it is what the meter
 * reads of those frames; from other edges on, each 100 ms is made of parts of two, which is good to 0.05 LU, and the true
 * peak is that of every 100 ms touched.
 *
 * @param startFrame first frame, and `endFrame` the one behind the last
 */
export function readSpan(
  series: Series,
  sampleRateHz: number,
  { startFrame, endFrame, gainDb = 0 }: { startFrame: number; endFrame: number; gainDb?: number },
): SpanReading {
  const peak = series.truePeaks.reduce((most, peaks) => {
    const first = Math.floor((startFrame * BINS_PER_SECOND) / sampleRateHz);
    const last = Math.ceil((endFrame * BINS_PER_SECOND) / sampleRateHz);
    return peaks.subarray(first, last).reduce((greatest, value) => Math.max(greatest, value), most);
  }, 0);
  return readPower(spanPower(series.weightedPower, sampleRateHz, startFrame, endFrame), gainDb, peak);
}

/** As `readSpan`, from the weighted power alone: nothing is said of peaks. */
export function readPowerSpan(
  weightedPower: ArrayLike<number>,
  sampleRateHz: number,
  { startFrame, endFrame, gainDb = 0 }: { startFrame: number; endFrame: number; gainDb?: number },
): Omit<SpanReading, 'truePeakDbtp'> {
  return readPower(spanPower(weightedPower, sampleRateHz, startFrame, endFrame), gainDb, 0);
}

/**
 * Reads the weighted power of every 100 ms, after a gain.
 *
 * @param peak the greatest true peak before the gain, linear
 */
export function readPower(power: Float64Array, gainDb: number, peak: number): SpanReading {
  const factor = dbToPower(gainDb);
  const gained = gainDb === 0 ? power : power.map((value) => value * factor);
  const momentary = slidingMean(gained, MOMENTARY_BINS);
  const shortTerm = slidingMean(gained, SHORT_TERM_BINS);
  const greatest = (powers: Float64Array) => powerToLufs(powers.reduce((most, value) => Math.max(most, value), 0));
  return {
    integratedLufs: integratedLufs(momentary),
    range: loudnessRange(shortTerm),
    maxMomentaryLufs: greatest(momentary),
    maxShortTermLufs: greatest(shortTerm),
    truePeakDbtp: amplitudeToDb(peak * Math.sqrt(factor)),
  };
}

/** Mean squares of every complete 100 ms from `startFrame` on. */
function spanPower(power: ArrayLike<number>, sampleRateHz: number, startFrame: number, endFrame: number): Float64Array {
  const first = Math.floor((startFrame * BINS_PER_SECOND) / sampleRateHz);
  const offset = startFrame - gridFrame(first, BINS_PER_SECOND, sampleRateHz);
  const wanted = Math.floor(((endFrame - startFrame) * BINS_PER_SECOND) / sampleRateHz);
  const part = (offset * BINS_PER_SECOND) / sampleRateHz;
  const length = Math.min(wanted, power.length - first - (part > 0 ? 1 : 0));
  return Float64Array.from({ length: Math.max(0, length) }, (_, i) => {
    const here = power[first + i] as number;
    return part === 0 ? here : (1 - part) * here + part * (power[first + i + 1] as number);
  });
}
