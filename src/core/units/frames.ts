/** Ten milliseconds and a hundred are the two grids that loudness is kept on. */
export const TICKS_PER_SECOND = 100;
export const BINS_PER_SECOND = 10;

/**
 * First frame of the n-th interval on a grid of so many intervals a second.
 *
 * The edge is rounded from zero each time, so an interval that is no whole number of frames
 * (11 025 Hz has 1102.5 frames in 100 ms) never drifts.
 */
export function gridFrame(index: number, perSecond: number, sampleRateHz: number): number {
  return Math.round((index * sampleRateHz) / perSecond);
}
