import { integratedLufs } from '../loudness/gating';
import { MOMENTARY_BINS, slidingMean } from '../loudness/series';
import { dbToPower, type Level } from '../units/decibel';
import { BINS_PER_SECOND } from '../units/frames';

/**
 * Integrated loudness after a gain and a limiter, from what every 100 ms hold: each is turned down by the mean of its
 * trace. Within 0.3 LU at 12 dB of drive, since peaks are louder than what is around them; nearer at less.
 *
 * @param weightedPower of the programme as it is
 */
export function forecastLimitedLufs(
  weightedPower: ArrayLike<number>,
  { trace, nodesPerSecond, gainDb }: { trace: Float64Array; nodesPerSecond: number; gainDb: number },
): Level {
  const gained = dbToPower(gainDb);
  const powers = Float64Array.from(weightedPower, (power, bin) => {
    const from = Math.round((bin * nodesPerSecond) / BINS_PER_SECOND);
    const to = Math.min(trace.length, Math.round(((bin + 1) * nodesPerSecond) / BINS_PER_SECOND));
    let left = 0;
    for (let k = from; k < to; k++) left += trace[k] === 0 ? 1 : dbToPower(-(trace[k] as number));
    return power * gained * (to > from ? left / (to - from) : 1);
  });
  return integratedLufs(slidingMean(powers, MOMENTARY_BINS));
}
