/** How high a sample is drawn: by its amplitude, or by its decibels, so that quiet parts are seen. */
export type Height = 'linear' | 'decibels';

/** Lowest level that a height by decibels shows. */
const FLOOR_DB = -42;
/** Amplitudes are shown up to this, so that what stands over full scale is seen to. */
const MOST_AMPLITUDE = 1.12;
const MOST_DB = 3;

/** From 0 to 1: how far a sample's magnitude reaches from the middle line to the edge. */
export function heightOf(magnitude: number, height: Height): number {
  if (height === 'linear') return Math.min(1, magnitude / MOST_AMPLITUDE);
  if (magnitude <= 0) return 0;
  const db = 20 * Math.log10(magnitude);
  return Math.min(1, Math.max(0, (db - FLOOR_DB) / (MOST_DB - FLOOR_DB)));
}

/** Levels that are written beside the waveform, from the edge to the middle. */
export function heightMarks(height: Height): number[] {
  return height === 'linear' ? [0, -3, -6, -12] : [0, -12, -24];
}

const TOP_LUFS = 0;
export const BOTTOM_LUFS = -48;
export const LOUDNESS_MARKS = [-6, -12, -18, -24, -30, -36, -42];

/** From 0 at the top to 1 at the bottom of the plot. */
export function loudnessDepth(lufs: number): number {
  return Math.min(1, Math.max(0, (TOP_LUFS - lufs) / (TOP_LUFS - BOTTOM_LUFS)));
}

/** Reductions are drawn down to this. */
export const MOST_REDUCTION_DB = 9;
