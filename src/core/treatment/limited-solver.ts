import type { ReductionFigures } from '../limiter/reduction';
import { MUCH_REDUCTION_DB } from '../limiter/reduction-words';
import type { Readings } from '../loudness/readings';
import { MOMENTARY_BINS, SHORT_TERM_BINS } from '../loudness/series';
import { specLoudness } from '../spec/requirements/loudness';
import type { Spec } from '../spec/spec';
import { forecastGain } from './forecast';
import type { LimitedForecast, MeasuredProgramme } from './limited-forecast';
import {
  type BindingLimit,
  type GainLimit,
  type GainSolution,
  gainToTarget,
  leastOf,
  noiseLimit,
  solveGain,
} from './solver';
import { roundGain } from './steps/gain';

/** A programme is limited by no more than this when nobody has asked for more. */
export const USUAL_REDUCTION_DB = MUCH_REDUCTION_DB;
/** Beyond this, a limiter is no longer what a target should be reached with. */
export const MOST_REDUCTION_DB = 12;
/** A decibel of gain that brings less loudness than this goes into the limiter: the target is out of reach. */
export const LEAST_LU_PER_DB = 0.15;
/** What the limiter costs is heard by then: its 95th percentile, and the loudness that another decibel brings. */
const AUDIBLE_PERCENTILE_DB = 2;
const AUDIBLE_LU_PER_DB = 0.5;

/** Loudness this near to its target is on it. */
const SOLVED_WITHIN_LU = 0.005;
const MOST_STEPS = 24;
const SLOPE_DB = 0.5;

export interface LimitedSolution extends GainSolution {
  /** As far as the gain may go for the limiter to take no more than is allowed. */
  mostGainDb: number;
  ceilingDbtp: number;
  reduction: ReductionFigures;
  /** Forecast. */
  readings: Readings;
  /** Loudness that the last half decibel has brought, by the decibel. */
  luPerDb: number;
  /** That is so little that more would not help. */
  isSpent: boolean;
  /** The limiter will be heard, by its 95th percentile or by how little another decibel brings. */
  isAudible: boolean;
}

/**
 * The gain into a limiter that comes nearest to a spec's target: as far as its first limit lets it, and never beyond the
 * reduction that is allowed, which is the gain by which the true peak exceeds the ceiling.
 *
 * @param maxReductionDb more than 0
 * @returns null where there is nothing that a limiter could help with: no loudness to reach, or no level
 */
export function solveLimited(forecast: LimitedForecast, spec: Spec, maxReductionDb: number): LimitedSolution | null {
  const { readings, weightedPower } = forecast.programme;
  const targetGainDb = gainToTarget(readings, weightedPower, spec);
  if (!spec.loudness || targetGainDb === null || readings.truePeakDbtp === null) return null;
  const { target, measure } = spec.loudness;
  const ceilingDbtp = spec.peak.ceiling;
  const untouchedGainDb = ceilingDbtp - readings.truePeakDbtp;
  const at = (gainDb: number) => ({ gainDb, ceilingDbtp });
  const loudnessAt = (gainDb: number) =>
    (measure === 'rms' ? forecast.rmsDbfs(at(gainDb)) : forecast.integratedLufs(at(gainDb))) ??
    Number.NEGATIVE_INFINITY;
  // What the limiter takes from the greatest peak follows the gain; its own look at peaks may be a little higher.
  const drivenDb = untouchedGainDb + maxReductionDb;
  const beyondDb = Math.max(0, forecast.greatestReductionDb(at(drivenDb)) - maxReductionDb);
  const reduction: GainLimit = { gainDb: drivenDb - beyondDb, binding: 'reduction' };
  let most = leastOf([reduction, ...noiseLimit(readings, spec, targetGainDb)]);
  const boundBy = (binding: BindingLimit, levelAt: (gainDb: number) => number, limit: number) => {
    const gainDb = crossing(levelAt, limit, Math.min(targetGainDb, most.gainDb), most.gainDb);
    if (gainDb !== undefined) most = { gainDb, binding };
  };
  // No limiter makes anything louder than the gain does: the target lies at the plain gain or beyond.
  boundBy('target', loudnessAt, target);
  const loudest = [
    [spec.maxShortTermLufs, SHORT_TERM_BINS, 'short-term'],
    [spec.maxMomentaryLufs, MOMENTARY_BINS, 'momentary'],
  ] as const;
  for (const [limit, bins, binding] of loudest) {
    if (limit === undefined) continue;
    const levelAt = (gainDb: number) => forecast.maximumLufs(at(gainDb), bins) ?? Number.NEGATIVE_INFINITY;
    boundBy(binding, levelAt, limit);
  }
  // The reduction that is allowed must not be exceeded by a rounding.
  const gainDb = roundGain(most.gainDb, most.binding === 'target' ? 'nearest' : 'down');
  const limited = forecast.at(at(gainDb));
  const reached = specLoudness(limited.readings, spec) ?? Number.NEGATIVE_INFINITY;
  const luPerDb = (loudnessAt(gainDb) - loudnessAt(gainDb - SLOPE_DB)) / SLOPE_DB;
  return {
    gainDb,
    ceilingDbtp,
    luPerDb,
    readings: limited.readings,
    reduction: limited.reduction,
    mostGainDb: most.binding === 'target' ? reduction.gainDb : gainDb,
    binding: most.binding,
    shortfallLu: most.binding === 'target' ? 0 : Math.max(0, target - reached),
    isSpent: luPerDb < LEAST_LU_PER_DB,
    isAudible: limited.reduction.percentile95Db > AUDIBLE_PERCENTILE_DB || luPerDb < AUDIBLE_LU_PER_DB,
  };
}

/**
 * Where a level that grows with the gain passes a limit: by chords that keep it between them (Illinois; Dowell and
 * Jarratt, BIT 11 (1971), from memory). Undefined where it stays below up to the last gain; the first where it is
 * above from there on.
 */
function crossing(levelAt: (gainDb: number) => number, limit: number, from: number, to: number): number | undefined {
  let [low, high] = [from, to];
  let above = levelAt(high) - limit;
  if (above <= 0) return above === 0 ? high : undefined;
  let below = levelAt(low) - limit;
  // What is over at the first gain already is sought further down.
  while (below > 0) {
    high = low;
    above = below;
    low -= Math.max(2 * below, SLOPE_DB);
    below = levelAt(low) - limit;
  }
  for (let step = 0, side = 0; step < MOST_STEPS && below < -SOLVED_WITHIN_LU; step++) {
    const gainDb = Number.isFinite(below) ? (low * above - high * below) / (above - below) : (low + high) / 2;
    const level = levelAt(gainDb) - limit;
    if (Math.abs(level) <= SOLVED_WITHIN_LU) return gainDb;
    if (level > 0) {
      [high, above] = [gainDb, level];
      if (side === 1) below /= 2;
      side = 1;
    } else {
      [low, below] = [gainDb, level];
      if (side === -1) above /= 2;
      side = -1;
    }
  }
  return low;
}

/** What can be done where the ceiling stops a gain before its target. */
export interface LevelOptions {
  gainOnly: GainSolution & { readings: Readings };
  /** Within the usual reduction; null where that is enough to reach the target, or nothing is to be limited. */
  limited: LimitedSolution | null;
  /** As far as the target; null where no limiter is needed or none reaches it. */
  target: LimitedSolution | null;
  /** More gain would only go into the limiter: no reduction reaches the target. */
  isSpent: boolean;
}

/**
 * The answers for a spec, none of which is chosen for anybody.
 *
 * @param mostReductionDb that the target may cost
 * @returns null where there is no level to move
 */
export function levelOptions(
  forecast: LimitedForecast,
  spec: Spec,
  mostReductionDb: number = MOST_REDUCTION_DB,
): LevelOptions | null {
  const { readings, weightedPower } = forecast.programme;
  const solution = solveGain(readings, weightedPower, spec);
  if (!solution) return null;
  const gainOnly = { ...solution, readings: forecastGain(readings, weightedPower, solution.gainDb) };
  const target = solution.binding === 'ceiling' ? solveLimited(forecast, spec, mostReductionDb) : null;
  if (!target) return { gainOnly, limited: null, target: null, isSpent: false };
  const isReached = target.binding === 'target' && !target.isSpent;
  const needsMore = !isReached || target.reduction.greatestDb > USUAL_REDUCTION_DB;
  return {
    gainOnly,
    limited: needsMore ? solveLimited(forecast, spec, Math.min(USUAL_REDUCTION_DB, mostReductionDb)) : null,
    target: isReached ? target : null,
    isSpent: target.isSpent,
  };
}

/** The answers for each of several specs: what one has asked of the forecast, the next need not ask again. */
export function levelOptionsForEach(forecast: LimitedForecast, specs: readonly Spec[]): (LevelOptions | null)[] {
  return specs.map((spec) => levelOptions(forecast, spec));
}

/** A limiter takes some loudness itself: the target needs more drive than it is short of, seldom two thirds more. */
const LOST_SHARE = 0.67;

/** The reduction that a target is likely to need: so deep is worth looking for peaks, before anything is known of them. */
export function likelyReductionDb({ readings, weightedPower }: MeasuredProgramme, spec: Spec): number {
  const targetGainDb = gainToTarget(readings, weightedPower, spec);
  if (targetGainDb === null || readings.truePeakDbtp === null) return USUAL_REDUCTION_DB;
  const driveDb = targetGainDb + readings.truePeakDbtp - spec.peak.ceiling;
  return Math.min(MOST_REDUCTION_DB, Math.max(USUAL_REDUCTION_DB, (1 + LOST_SHARE) * driveDb + 1));
}
