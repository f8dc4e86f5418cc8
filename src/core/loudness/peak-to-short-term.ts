import { amplitudeToDb } from '../units/decibel';
import { BINS_PER_SECOND } from '../units/frames';
import { loudnessCurve, SHORT_TERM_BINS } from './series';

/**
 * How far the true peak of the last 3 s stands above their loudness (PSR), in dB at the end of each column of peaks: NaN in silence and
 * until 3 s have passed. Common practice, no standard: EBU R 128 and its documents know integrated and short-term loudness alone.
 *
 * @param peaks greatest true peak of each column, linear, of all channels
 * @param weightedPower mean square of every 100 ms, with the gain beside it
 * @param binsPerColumn intervals of 100 ms in a column; where there are several, peaks of up to so many more are taken in
 */
export function peakToShortTerm(
  peaks: ArrayLike<number>,
  weightedPower: { values: ArrayLike<number>; gainDb: number },
  binsPerColumn: number,
): Float32Array {
  const shortTerm = loudnessCurve(weightedPower.values, SHORT_TERM_BINS, weightedPower.gainDb);
  const columns = Math.ceil(SHORT_TERM_BINS / binsPerColumn);
  return Float32Array.from({ length: peaks.length }, (_, column) => {
    const loudness = shortTerm[(column + 1) * binsPerColumn - 1] ?? Number.NaN;
    let peak = 0;
    for (let own = Math.max(0, column - columns + 1); own <= column; own++) peak = Math.max(peak, peaks[own] as number);
    const level = amplitudeToDb(peak);
    return level === null || !Number.isFinite(loudness) ? Number.NaN : level - loudness;
  });
}

/** The least of a curve, and when in seconds its 3 s end; null where there is none. */
export function leastOf(curve: Float32Array, binsPerColumn: number): { value: number; endSeconds: number } | null {
  let least = -1;
  curve.forEach((value, column) => {
    if (!Number.isNaN(value) && (least < 0 || value < (curve[least] as number))) least = column;
  });
  if (least < 0) return null;
  return { value: curve[least] as number, endSeconds: ((least + 1) * binsPerColumn) / BINS_PER_SECOND };
}
