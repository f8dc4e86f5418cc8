import { integratedLufs, loudnessRange, powerToLufs } from '../loudness/gating';
import type { Readings } from '../loudness/readings';
import { MOMENTARY_BINS, SHORT_TERM_BINS, slidingMean } from '../loudness/series';
import { addGain, dbToAmplitude, dbToPower, type Level } from '../units/decibel';
import { BINS_PER_SECOND } from '../units/frames';
import { type Fades, fadeGain } from './steps/fade';
import type { Treatment } from './treatment';

/**
 * The readings of a programme with every level moved by a gain: what a forecast is where no block crosses the absolute
 * gate of −70 LUFS, and good enough for a glance.
 */
export function moveLevels(readings: Readings, gainDb: number): Readings {
  const by = (level: Level) => addGain(level, gainDb);
  return {
    ...readings,
    integratedLufs: by(readings.integratedLufs),
    integratedAsTwoSpeakersLufs: by(readings.integratedAsTwoSpeakersLufs),
    loudnessRangeLowLufs: by(readings.loudnessRangeLowLufs),
    loudnessRangeHighLufs: by(readings.loudnessRangeHighLufs),
    maxMomentaryLufs: by(readings.maxMomentaryLufs),
    maxShortTermLufs: by(readings.maxShortTermLufs),
    truePeakDbtp: by(readings.truePeakDbtp),
    samplePeakDbfs: by(readings.samplePeakDbfs),
    perChannel: readings.perChannel.map((channel) => ({
      ...channel,
      truePeakDbtp: by(channel.truePeakDbtp),
      samplePeakDbfs: by(channel.samplePeakDbfs),
      dcOffset: channel.dcOffset * dbToAmplitude(gainDb),
    })),
    rmsDbfs: by(readings.rmsDbfs),
    noiseFloorDbfs: by(readings.noiseFloorDbfs),
    loudest3s: readings.loudest3s.map((passage) => ({ ...passage, lufs: passage.lufs + gainDb })),
    loudest10s: readings.loudest10s.map((passage) => ({ ...passage, lufs: passage.lufs + gainDb })),
    shortTermDistribution: readings.shortTermDistribution && {
      ...readings.shortTermDistribution,
      fromLufs: readings.shortTermDistribution.fromLufs + gainDb,
    },
  };
}

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
  const moved = moveLevels(readings, gainDb);
  const gated = gatedLevels(weightedPower, gainDb);
  return {
    ...moved,
    ...gated,
    peakToLoudnessLu:
      moved.truePeakDbtp === null || gated.integratedLufs === null ? null : moved.truePeakDbtp - gated.integratedLufs,
  };
}

/**
 * A treatment at a glance: levels move by its gains, and no peak stands above its limiter's ceiling. What the
 * limiter takes from the loudness is not known here, and left out.
 */
export function glance(readings: Readings, { gainDb, limit, outputGainDb }: GlancedSteps): Readings {
  if (!limit) return moveLevels(readings, gainDb + outputGainDb);
  const moved = moveLevels(readings, gainDb);
  const held = (level: Level) => (level === null ? null : Math.min(level, limit.ceilingDbtp));
  const limited = {
    ...moved,
    truePeakDbtp: held(moved.truePeakDbtp),
    samplePeakDbfs: held(moved.samplePeakDbfs),
    perChannel: moved.perChannel.map((channel) => ({
      ...channel,
      truePeakDbtp: held(channel.truePeakDbtp),
      samplePeakDbfs: held(channel.samplePeakDbfs),
    })),
  };
  return outputGainDb === 0 ? limited : moveLevels(limited, outputGainDb);
}

/** Points of a fade that stand for 100 ms of it. */
const FADE_POINTS = 8;

/**
 * The readings of a programme with its fades, whose loudness and range are gated again, and whose loudest moments are as
 * much softer as their 100 ms have become. What fades do to peaks is left out: they only ever go down.
 *
 * @param readings with the gain, before the fades
 * @param power weighted mean square of every complete 100 ms before the gain, behind a limiter
 */
export function forecastFades(
  readings: Readings,
  power: ArrayLike<number>,
  gainDb: number,
  format: { sampleRateHz: number; frames: number },
  fades: Fades,
): Readings {
  if (!fades.fadeIn && !fades.fadeOut) return readings;
  const faded = fadedPower(power, format, fades);
  const gated = gatedLevels(faded, gainDb);
  const lostLu = (bins: number) => {
    const most = (powers: ArrayLike<number>) => slidingMean(powers, bins).reduce((a, b) => Math.max(a, b), 0);
    const [before, after] = [powerToLufs(most(power)), powerToLufs(most(faded))];
    return before === null || after === null ? 0 : before - after;
  };
  return {
    ...readings,
    ...gated,
    maxMomentaryLufs: addGain(readings.maxMomentaryLufs, -lostLu(MOMENTARY_BINS)),
    maxShortTermLufs: addGain(readings.maxShortTermLufs, -lostLu(SHORT_TERM_BINS)),
    peakToLoudnessLu:
      readings.truePeakDbtp === null || gated.integratedLufs === null
        ? null
        : readings.truePeakDbtp - gated.integratedLufs,
  };
}

/** What a programme reads behind everything, and the weighted power of every 100 ms there but for a gain that stands beside it. */
export interface LevelForecast {
  readings: Readings;
  curve: { values: Float32Array; gainDb: number };
}

/**
 * Everything behind the preparation, in its order: gain with its limiter, output gain, fades.
 *
 * @param before the prepared programme: its readings, and the weighted mean square of every complete 100 ms
 * @param limited what a limiter leaves of it: its readings with the gain, and the power before the gain; null without a limiter
 */
export function forecastLevels(
  before: { readings: Readings; weightedPower: ArrayLike<number>; format: { sampleRateHz: number; frames: number } },
  treatment: Pick<Treatment, 'gainDb' | 'outputGainDb'>,
  fades: Fades,
  limited: { readings: Readings; weightedPower: ArrayLike<number> } | null,
): LevelForecast {
  const { outputGainDb } = treatment;
  const gainDb = treatment.gainDb + outputGainDb;
  const power = limited?.weightedPower ?? before.weightedPower;
  const unfaded = limited ? moveLevels(limited.readings, outputGainDb) : forecastGain(before.readings, power, gainDb);
  return {
    readings: forecastFades(unfaded, power, gainDb, before.format, fades),
    curve: { values: fadedPower(power, before.format, fades), gainDb },
  };
}

/** A curve with its gain. */
export function gainedPower({ values, gainDb }: LevelForecast['curve']): Float32Array {
  const power = dbToPower(gainDb);
  return values.map((own) => own * power);
}

/** What fades leave of the weighted power of every 100 ms. */
export function fadedPower(
  power: ArrayLike<number>,
  { sampleRateHz, frames }: { sampleRateHz: number; frames: number },
  { fadeIn, fadeOut, paddingStart = 0, paddingEnd = 0 }: Fades,
): Float32Array {
  const binFrames = sampleRateHz / BINS_PER_SECOND;
  const last = frames - paddingEnd - 1;
  const gainAt = (frame: number) => {
    const ahead = fadeIn ? fadeGain(fadeIn.shape, (frame - paddingStart) / fadeIn.frames) : 1;
    return fadeOut ? ahead * fadeGain(fadeOut.shape, (last - frame) / fadeOut.frames) : ahead;
  };
  return Float32Array.from(power, (value, bin) => {
    let sum = 0;
    for (let i = 0; i < FADE_POINTS; i++) sum += gainAt((bin + (i + 0.5) / FADE_POINTS) * binFrames) ** 2;
    return (value * sum) / FADE_POINTS;
  });
}

type GlancedSteps = Pick<Treatment, 'gainDb' | 'limit' | 'outputGainDb'>;

type GatedLevels = Pick<
  Readings,
  'integratedLufs' | 'loudnessRangeLu' | 'loudnessRangeLowLufs' | 'loudnessRangeHighLufs'
>;

/** Loudness and its range after a gain, from the weighted power of every 100 ms. */
export function gatedLevels(weightedPower: ArrayLike<number>, gainDb: number): GatedLevels {
  const power = dbToPower(gainDb);
  const gained = Float64Array.from(weightedPower, (value) => value * power);
  const range = loudnessRange(slidingMean(gained, SHORT_TERM_BINS));
  return {
    integratedLufs: integratedLufs(slidingMean(gained, MOMENTARY_BINS)),
    loudnessRangeLu: range?.rangeLu ?? null,
    loudnessRangeLowLufs: range?.lowLufs ?? null,
    loudnessRangeHighLufs: range?.highLufs ?? null,
  };
}
