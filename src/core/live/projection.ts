import { ABSOLUTE_GATE_LUFS, lufsToPower, powerToLufs } from '../loudness/gating';
import type { LiveReadings } from '../loudness/live-meter';

/** A block counts in integrated loudness where it is no more than this under the mean (ITU-R BS.1770-5, Annex 1, from memory). */
const RELATIVE_GATE_LU = 10;
/** Nobody can ask for more. */
const MOST_LUFS = 0;

/** What the rest of a programme must average so that all of it is on target. */
export type Projection =
  | { kind: 'nothing-measured' }
  | { kind: 'over-time' }
  | { kind: 'average'; remainingSeconds: number; averageLufs: number }
  /** Whatever sounds, the whole will be too loud, or too quiet: as near as this can it come. */
  | { kind: 'out-of-reach'; remainingSeconds: number; nearestLufs: number };

/**
 * The average loudness that the remaining seconds must have for the whole to end on target. What is left is taken to pass the gates all
 * of the time; where it pauses, what sounds in it must be louder by as much as that takes away.
 *
 * Of the mean of n₁ blocks and n₂ to come, E₂ = (T·(n₁ + n₂) − E₁·n₁) / n₂ (from ITU-R BS.1770-5, Annex 1: integrated loudness is the mean
 * power of the blocks that pass). What is quieter than 10 LU under the target is gated, and does not bring the whole down.
 *
 * @param plannedSeconds length of the whole, as planned
 */
export function projectTarget(
  { integratedLufs, gatedSeconds, seconds }: Pick<LiveReadings, 'integratedLufs' | 'gatedSeconds' | 'seconds'>,
  targetLufs: number,
  plannedSeconds: number,
): Projection {
  if (integratedLufs === null) return { kind: 'nothing-measured' };
  const remainingSeconds = plannedSeconds - seconds;
  if (remainingSeconds <= 0) return { kind: 'over-time' };
  const [soFar, target] = [lufsToPower(integratedLufs), lufsToPower(targetLufs)];
  const power = (target * (gatedSeconds + remainingSeconds) - soFar * gatedSeconds) / remainingSeconds;
  const quietest = Math.max(targetLufs - RELATIVE_GATE_LU, ABSOLUTE_GATE_LUFS);
  const averageLufs = powerToLufs(power) ?? Number.NEGATIVE_INFINITY;
  if (averageLufs >= quietest && averageLufs <= MOST_LUFS) return { kind: 'average', remainingSeconds, averageLufs };
  const nearest = lufsToPower(averageLufs < quietest ? quietest : MOST_LUFS);
  const whole = (soFar * gatedSeconds + nearest * remainingSeconds) / (gatedSeconds + remainingSeconds);
  return { kind: 'out-of-reach', remainingSeconds, nearestLufs: powerToLufs(whole) ?? ABSOLUTE_GATE_LUFS };
}
