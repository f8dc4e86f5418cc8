import { forecastLimitedLufs } from './forecast';
import { gainTrace } from './gain-trace';
import { nodeFrames } from './peak-envelope';

/** Two halvings past a hundredth of a decibel. */
const STEPS = 14;
/** Where a decibel of gain brings less loudness than this, the rest goes into the limiter. */
const LEAST_LU_PER_DB = 0.15;

/** What a gain into a limiter is solved from. */
export interface DriveProblem {
  /** Of the programme as it is: PeakEnvelope, and the powers of every 100 ms. */
  peaks: Float32Array;
  weightedPower: ArrayLike<number>;
  sampleRateHz: number;
  truePeakDbtp: number;
  targetLufs: number;
  ceilingDbtp: number;
  maxReductionDb: number;
}

export interface Drive {
  gainDb: number;
  /** Loudness gained by another decibel, in LU. */
  slope: number;
  /** The reduction allowed stops the gain before the target is reached. */
  isBounded: boolean;
}

/**
 * The gain into a limiter that brings a programme's loudness to a target, by forecast; never more than the reduction
 * allows, which is the gain by which its true peak exceeds the ceiling.
 */
export function solveDrive(problem: DriveProblem): Drive {
  const { peaks, weightedPower, sampleRateHz, truePeakDbtp, targetLufs, ceilingDbtp, maxReductionDb } = problem;
  const nodesPerSecond = sampleRateHz / nodeFrames(sampleRateHz);
  const lufsAt = (gainDb: number) => {
    const trace = gainTrace(peaks, { gainDb, ceilingDbtp, nodesPerSecond });
    return forecastLimitedLufs(weightedPower, { trace, nodesPerSecond, gainDb }) ?? Number.NEGATIVE_INFINITY;
  };
  const most = ceilingDbtp - truePeakDbtp + maxReductionDb;
  let low = ceilingDbtp - truePeakDbtp;
  let high = most;
  const isBounded = lufsAt(high) < targetLufs;
  for (let step = 0; step < STEPS && !isBounded; step++) {
    const middle = (low + high) / 2;
    if (lufsAt(middle) < targetLufs) low = middle;
    else high = middle;
  }
  const slope = Math.max(LEAST_LU_PER_DB, (lufsAt(high) - lufsAt(high - 0.5)) / 0.5);
  return { gainDb: high, slope, isBounded };
}
