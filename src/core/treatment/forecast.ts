import { integratedLufs, loudnessRange } from '../loudness/gating';
import type { Readings } from '../loudness/readings';
import { MOMENTARY_BINS, SHORT_TERM_BINS, slidingMean } from '../loudness/series';
import { addGain, dbToPower } from '../units/decibel';

/**
 * The readings of a programme after a gain, without touching its audio.
 *
 * All levels move by the gain. Loudness and its range are gated again from the 100 ms powers, since the absolute gate
 * does not move along: exact, as the gating blocks stand on that grid.
 *
 * @param weightedPower the programme's weighted mean square of every complete 100 ms
 */
export function forecastGain(readings: Readings, weightedPower: ArrayLike<number>, gainDb: number): Readings {
  if (gainDb === 0) return readings;
  const power = dbToPower(gainDb);
  const gained = Float64Array.from(weightedPower, (value) => value * power);
  const integrated = integratedLufs(slidingMean(gained, MOMENTARY_BINS));
  const range = loudnessRange(slidingMean(gained, SHORT_TERM_BINS));
  const truePeakDbtp = addGain(readings.truePeakDbtp, gainDb);
  return {
    ...readings,
    integratedLufs: integrated,
    loudnessRangeLu: range?.rangeLu ?? null,
    loudnessRangeLowLufs: range?.lowLufs ?? null,
    loudnessRangeHighLufs: range?.highLufs ?? null,
    maxMomentaryLufs: addGain(readings.maxMomentaryLufs, gainDb),
    maxShortTermLufs: addGain(readings.maxShortTermLufs, gainDb),
    truePeakDbtp,
    samplePeakDbfs: addGain(readings.samplePeakDbfs, gainDb),
    perChannel: readings.perChannel.map((channel) => ({
      ...channel,
      truePeakDbtp: addGain(channel.truePeakDbtp, gainDb),
      samplePeakDbfs: addGain(channel.samplePeakDbfs, gainDb),
      dcOffset: channel.dcOffset * Math.sqrt(power),
    })),
    rmsDbfs: addGain(readings.rmsDbfs, gainDb),
    noiseFloorDbfs: addGain(readings.noiseFloorDbfs, gainDb),
    peakToLoudnessLu: truePeakDbtp === null || integrated === null ? null : truePeakDbtp - integrated,
  };
}
