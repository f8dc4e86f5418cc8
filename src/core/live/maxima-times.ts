import type { LiveReadings } from '../loudness/live-meter';

const MAXIMA = ['maxMomentaryLufs', 'maxShortTermLufs', 'truePeakDbtp'] as const;
type Maximum = (typeof MAXIMA)[number];

/** By the clock, when each maximum since the start, or since a reset, was read; null where there is none yet. */
export type MaximaMs = Record<Maximum, number | null>;

export const NO_MAXIMA_MS: MaximaMs = { maxMomentaryLufs: null, maxShortTermLufs: null, truePeakDbtp: null };

/**
 * When each maximum was read, once more readings have come.
 *
 * @param before what was read before these, and when its maxima were
 * @param atMs of the new readings
 */
export function maximaMs(
  readings: Pick<LiveReadings, Maximum>,
  atMs: number,
  before: { readings: Pick<LiveReadings, Maximum>; maximaMs: MaximaMs } | undefined,
): MaximaMs {
  // One that is lower than before was begun anew.
  const timeOf = (key: Maximum) =>
    readings[key] === null ? null : readings[key] === before?.readings[key] ? before.maximaMs[key] : atMs;
  return Object.fromEntries(MAXIMA.map((key) => [key, timeOf(key)])) as MaximaMs;
}
