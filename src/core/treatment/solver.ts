import type { Readings } from '../loudness/readings';
import { specLoudness } from '../spec/requirements/loudness';
import { specPeak } from '../spec/requirements/peak';
import type { Spec } from '../spec/spec';
import { forecastGain } from './forecast';
import { roundGain } from './steps/gain';

/** What stops a gain: the target itself, or the limit that is met first. */
export const BINDING_LIMITS = ['target', 'ceiling', 'short-term', 'momentary', 'noise-floor', 'reduction'] as const;
export type BindingLimit = (typeof BINDING_LIMITS)[number];

export interface GainSolution {
  gainDb: number;
  binding: BindingLimit;
  /** How far the loudness stays short of its target, in LU; 0 where the target is met or there is none. */
  shortfallLu: number;
}

/** A gain that may not be exceeded, and why. */
export interface GainLimit {
  gainDb: number;
  binding: BindingLimit;
}

/** Gating makes loudness bend a little where blocks cross −70 LUFS; this many corrections leave nothing to correct. */
const CORRECTIONS = 4;

/** Gain that brings the loudness to a spec's target, whatever the peaks do; null where there is nothing to move. */
export function gainToTarget(readings: Readings, weightedPower: ArrayLike<number>, spec: Spec): number | null {
  if (!spec.loudness) return null;
  let gainDb = 0;
  for (let i = 0; i < CORRECTIONS; i++) {
    const loudness = specLoudness(forecastGain(readings, weightedPower, gainDb), spec);
    if (loudness === null) return i === 0 ? null : roundGain(gainDb);
    gainDb += spec.loudness.target - loudness;
  }
  return roundGain(gainDb);
}

/** Gain that brings the programme's peak to a ceiling and not above; null for silence. */
export function gainToCeiling(readings: Readings, spec: Spec, ceiling = spec.peak.ceiling): number | null {
  const peak = specPeak(readings, spec);
  return peak === null ? null : roundGain(ceiling - peak, 'down');
}

/** Gain that leaves 6 dB of true-peak headroom, as a premaster does (common practice, no source). */
export function gainForHeadroom(readings: Readings): number | null {
  return readings.truePeakDbtp === null ? null : roundGain(-6 - readings.truePeakDbtp, 'down');
}

/**
 * The gain alone that comes nearest to a spec: to its target, or as far as the first limit lets it.
 * Null where there is no level to move (silence, or too short for the spec's loudness).
 */
export function solveGain(readings: Readings, weightedPower: ArrayLike<number>, spec: Spec): GainSolution | null {
  const ceilingGain = gainToCeiling(readings, spec);
  if (ceilingGain === null) return null;
  const limits: GainLimit[] = [{ gainDb: ceilingGain, binding: 'ceiling' }];
  const loudest = [
    [spec.maxShortTermLufs, readings.maxShortTermLufs, 'short-term'],
    [spec.maxMomentaryLufs, readings.maxMomentaryLufs, 'momentary'],
  ] as const;
  for (const [most, level, binding] of loudest) {
    if (most !== undefined && level !== null) limits.push({ gainDb: roundGain(most - level, 'down'), binding });
  }
  const targetGain = gainToTarget(readings, weightedPower, spec);
  if (spec.loudness) {
    if (targetGain === null) return null;
    limits.unshift({ gainDb: targetGain, binding: 'target' }, ...noiseLimit(readings, spec, targetGain));
  }
  const first = leastOf(limits);
  if (!spec.loudness) return { ...first, shortfallLu: 0 };
  const reached = specLoudness(forecastGain(readings, weightedPower, first.gainDb), spec);
  const shortfallLu = first.binding === 'target' || reached === null ? 0 : Math.max(0, spec.loudness.target - reached);
  return { ...first, shortfallLu };
}

/**
 * The gain that the noise floor allows, where that still brings the loudness into its window. Where it does not, no gain
 * meets both: the noise is then the programme's, and it would help nobody to turn the speech down for it.
 */
export function noiseLimit(readings: Readings, spec: Spec, targetGainDb: number): GainLimit[] {
  if (!spec.loudness || spec.maxNoiseFloorDbfs === undefined || readings.noiseFloorDbfs === null) return [];
  const gainDb = roundGain(spec.maxNoiseFloorDbfs - readings.noiseFloorDbfs, 'down');
  return gainDb >= targetGainDb - spec.loudness.toleranceBelow ? [{ gainDb, binding: 'noise-floor' }] : [];
}

export function leastOf(limits: readonly GainLimit[]): GainLimit {
  return limits.reduce((least, limit) => (limit.gainDb < least.gainDb ? limit : least));
}
