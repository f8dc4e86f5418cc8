import { dbToPower, type Level } from '../units/decibel';

/** ITU-R BS.1770-5, Annex 1 (from memory): L = −0.691 + 10·log10(Σ Gᵢ·zᵢ). */
const LOUDNESS_OFFSET_DB = -0.691;
export const ABSOLUTE_GATE_LUFS = -70;
const INTEGRATED_RELATIVE_GATE_LU = -10;
/** EBU Tech 3342 (from memory). */
const RANGE_RELATIVE_GATE_LU = -20;
export const RANGE_PERCENTILES = [10, 95] as const;

/** Loudness in LUFS of a weighted mean square; null for silence. */
export function powerToLufs(weightedPower: number): Level {
  return weightedPower > 0 ? LOUDNESS_OFFSET_DB + 10 * Math.log10(weightedPower) : null;
}

export function lufsToPower(lufs: number): number {
  return dbToPower(lufs - LOUDNESS_OFFSET_DB);
}

export const ABSOLUTE_GATE_POWER = lufsToPower(ABSOLUTE_GATE_LUFS);

/** Powers that pass a gate: how many, and their sum. */
export interface GatedPowers {
  count: number;
  sum: number;
}

/** The powers at or above the gate. */
function allAbove(powers: ArrayLike<number>, gate: number): GatedPowers {
  let sum = 0;
  let count = 0;
  for (let i = 0; i < powers.length; i++) {
    const power = powers[i] as number;
    if (power >= gate) {
      sum += power;
      count++;
    }
  }
  return { count, sum };
}

/** Their mean, or undefined where there is none. */
function meanAbove(powers: ArrayLike<number>, gate: number): number | undefined {
  const { count, sum } = allAbove(powers, gate);
  return count > 0 ? sum / count : undefined;
}

/**
 * Integrated loudness in LUFS of a programme's gating blocks (weighted mean squares of 400 ms, 75 % overlap),
 * gated at −70 LUFS and then at 10 LU under the mean of what is left. Null where no block passes.
 */
export function integratedLufs(blockPowers: ArrayLike<number>): Level {
  return gatedLufs(integratedBlocks(blockPowers));
}

/** The gating blocks that integrated loudness is the mean of. */
export function integratedBlocks(blockPowers: ArrayLike<number>): GatedPowers {
  const ungated = meanAbove(blockPowers, ABSOLUTE_GATE_POWER);
  return ungated === undefined ? { count: 0, sum: 0 } : allAbove(blockPowers, integratedGatePower(ungated));
}

/** Loudness in LUFS of what passes a gate; null where nothing does. */
export function gatedLufs({ count, sum }: GatedPowers): Level {
  return count === 0 ? null : powerToLufs(sum / count);
}

/** What a block must have to count in integrated loudness: 10 LU under the mean of those over −70 LUFS. */
export function integratedGatePower(ungatedMean: number): number {
  return Math.max(ungatedMean * dbToPower(INTEGRATED_RELATIVE_GATE_LU), ABSOLUTE_GATE_POWER);
}

/**
 * The gate in LUFS that lies so many LU under the mean of all that passes −70 LUFS; null where nothing does.
 *
 * @param powers of 400 ms for integrated loudness (10 LU), of 3 s for loudness range (20 LU)
 */
export function relativeGateLufs(powers: ArrayLike<number>, relativeLu: number): Level {
  const ungated = meanAbove(powers, ABSOLUTE_GATE_POWER);
  return ungated === undefined ? null : powerToLufs(ungated * dbToPower(-relativeLu));
}

export interface LoudnessRange {
  rangeLu: number;
  lowLufs: number;
  highLufs: number;
}

/**
 * Loudness range of a programme's short-term powers (weighted mean squares of 3 s), by EBU Tech 3342 (from memory):
 * gated at −70 LUFS and 20 LU under the mean of those left; 95th less 10th percentile, each the value at the nearest
 * rank round((n − 1)·p/100) of the ascending order. Null where no value passes the gates.
 */
export function loudnessRange(shortTermPowers: ArrayLike<number>): LoudnessRange | null {
  const ungated = meanAbove(shortTermPowers, ABSOLUTE_GATE_POWER);
  if (ungated === undefined) return null;
  const gate = rangeGatePower(ungated);
  return rangeOfAscending(
    Float64Array.from(shortTermPowers)
      .filter((power) => power >= gate)
      .sort(),
  );
}

/** What a short-term power must have to count in a loudness range: 20 LU under the mean of those over −70 LUFS. */
export function rangeGatePower(ungatedMean: number): number {
  return Math.max(ungatedMean * dbToPower(RANGE_RELATIVE_GATE_LU), ABSOLUTE_GATE_POWER);
}

/** @param kept at least one power: those that pass the gates, ascending */
export function rangeOfAscending(kept: Float64Array): LoudnessRange {
  const [lowLufs, highLufs] = RANGE_PERCENTILES.map((own) => powerToLufs(nearestRank(kept, own))) as [number, number];
  return { rangeLu: highLufs - lowLufs, lowLufs, highLufs };
}

function nearestRank(ascending: Float64Array, percentile: number): number {
  return ascending[Math.round(((ascending.length - 1) * percentile) / 100)] as number;
}
