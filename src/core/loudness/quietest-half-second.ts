import { SILENT_POWER } from './digital-silence';
import { slidingMean } from './series';

/** Half a second on the 100 ms grid. */
export const HALF_SECOND_BINS = 5;

/** Where the quietest half-second begins, in bins of 100 ms, and its mean power. */
export interface QuietestHalfSecond {
  startBin: number;
  power: number;
}

/**
 * The quietest half-second on the 100 ms grid that holds no digital silence; the first of equals, null where there is none.
 *
 * @param power mean square of every 100 ms
 * @param holdsSilence of a bin, where more is known than its mean
 * @param marginBins left out at both ends
 */
export function quietestHalfSecond(
  power: ArrayLike<number>,
  holdsSilence: (bin: number) => boolean = (bin) => (power[bin] ?? 0) < SILENT_POWER,
  marginBins = 0,
): QuietestHalfSecond | null {
  const means = slidingMean(power, HALF_SECOND_BINS);
  let quietest: QuietestHalfSecond | null = null;
  // Bins in a row that hold no silence, up to the one looked at.
  let sounding = 0;
  for (let last = marginBins; last < power.length - marginBins; last++) {
    sounding = holdsSilence(last) ? 0 : sounding + 1;
    if (sounding < HALF_SECOND_BINS) continue;
    const startBin = last - HALF_SECOND_BINS + 1;
    const mean = means[startBin] ?? 0;
    if (!quietest || mean < quietest.power) quietest = { startBin, power: mean };
  }
  return quietest;
}
