import type { Readings } from '../loudness/readings';
import { specLoudness } from '../spec/requirements/loudness';
import type { Spec } from '../spec/spec';
import { forecastLevels, gainedPower } from './forecast';
import { LEAST_LU_PER_DB, type LimitedSolution } from './limited-solver';
import { type BindingLimit, gainToCeiling, solveGain } from './solver';
import { roundGain } from './steps/gain';
import { USUAL_LIMITER } from './steps/limit';
import { fadesOf, type Treatment } from './treatment';

/** How the gain may still be moved once it is known where a file has landed. */
export interface Landing {
  /** It is never moved beyond. */
  mostGainDb: number;
  /** Loudness that another decibel brings. */
  luPerDb: number;
  /** What a limiter may take that was not needed before coding; absent where none is allowed, or one is there already. */
  mayLimitDb?: number;
  /** The most that a limiter may take, where there is one. */
  maxReductionDb?: number;
}

/** The levels that bring a treatment as near to a spec as it comes. */
export interface LevelPlan {
  /** With its gain, and with a limiter where one is needed and allowed. */
  treatment: Treatment;
  landing: Landing;
  /** What stops the gain, and how far that is from the target, in LU; `target` where it is reached. */
  stop: { binding: BindingLimit; shortfallLu: number };
}

/** A programme before its gain: readings, weighted mean square of every whole 100 ms, and what its frames are counted by. */
interface PreparedLevels {
  readings: Readings;
  weightedPower: Float64Array;
  format: { sampleRateHz: number; frames: number };
}

/** How far a plan may go. */
interface LevelAllowance {
  /** The most that a limiter may take; 0 for none. */
  maxReductionDb: number;
  /** How far below its spec's ceiling the peak is to stay. */
  marginDb?: number;
  /** Where a spec asks for no loudness: what stands below its ceiling is left as it is, or brought up to it. */
  withoutTarget: 'only-down' | 'to-ceiling';
}

/**
 * The one planner of levels: by gain alone, or with a limiter within what is allowed. What comes behind the gain (output gain,
 * fades) is forecast first, and the gain is found for what that leaves.
 *
 * @param treatment whose gain and limiter are to be found; its limiter's own settings stay
 * @param limitedFor what a limiter reaches of a spec within a reduction; null where it helps with nothing
 * @returns null where there is no level that a gain could move
 */
export async function planLevels(
  prepared: PreparedLevels,
  treatment: Treatment,
  spec: Spec,
  { maxReductionDb, marginDb = 0, withoutTarget }: LevelAllowance,
  limitedFor: (aimed: Spec, maxReductionDb: number) => Promise<LimitedSolution | null>,
): Promise<LevelPlan | null> {
  const aimed = marginDb === 0 ? spec : { ...spec, peak: { ...spec.peak, ceiling: spec.peak.ceiling - marginDb } };
  const ungained = { ...treatment, gainDb: 0 };
  const { readings: faded, curve } = forecastLevels(prepared, ungained, fadesOf(treatment), null);
  const plain = solveGain(faded, gainedPower(curve), aimed);
  const toCeiling = gainToCeiling(faded, aimed);
  if (!plain || toCeiling === null) return null;
  const isOnTarget = plain.binding === 'target';
  const isLeftAlone = !spec.loudness && withoutTarget === 'only-down';
  const gainDb = isLeftAlone ? Math.min(0, plain.gainDb) : plain.gainDb;
  const { binding, shortfallLu } = plain;
  const byGain: LevelPlan = {
    treatment: { ...treatment, gainDb, limit: null },
    landing: {
      mostGainDb: isOnTarget ? toCeiling : gainDb,
      luPerDb: 1,
      mayLimitDb: isOnTarget ? maxReductionDb : 0,
    },
    stop: { binding, shortfallLu },
  };
  if (maxReductionDb === 0 || binding !== 'ceiling' || !spec.loudness) return byGain;
  const limited = await limitedFor(aimed, maxReductionDb);
  if (!limited) return byGain;
  return {
    treatment: {
      ...treatment,
      gainDb: roundGain(Math.min(limited.mostGainDb, limited.gainDb + lossOf(prepared.readings, faded, spec)), 'down'),
      limit: { ...USUAL_LIMITER, ...treatment.limit, ceilingDbtp: limited.ceilingDbtp },
    },
    landing: {
      mostGainDb: limited.mostGainDb,
      maxReductionDb,
      luPerDb: Math.max(LEAST_LU_PER_DB, limited.luPerDb),
    },
    stop: { binding: limited.binding, shortfallLu: limited.shortfallLu },
  };
}

/** Loudness that what comes behind the limiter loses, in LU: what the gain has to make up for. */
function lossOf(before: Readings, after: Readings, spec: Spec): number {
  const [from, to] = [specLoudness(before, spec), specLoudness(after, spec)];
  return from === null || to === null ? 0 : Math.max(0, from - to);
}
