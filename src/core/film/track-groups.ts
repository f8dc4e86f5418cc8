/** Which mono tracks of a film belong together, as broadcast files are usually made up (common practice, no source). A person decides. */

interface Track {
  /** Counted from 1. */
  number: number;
  channels: number;
  sampleRateHz: number;
  /** Null where none is stated. */
  language: string | null;
}

/** By how many mono tracks stand side by side; other even numbers are pairs. */
const MADE_UP: Readonly<Record<number, readonly number[]>> = { 6: [6], 8: [2, 6], 16: [2, 6, 2, 6] };

/**
 * Proposes what to put together of a file's sound tracks, in their order: mono tracks side by side of one sample rate and language. A track
 * that belongs to no other is a group of its own.
 */
export function proposedTrackGroups(tracks: readonly Track[]): number[][] {
  const groups: number[][] = [];
  for (let from = 0; from < tracks.length; ) {
    const run = monoRun(tracks, from);
    const sizes = MADE_UP[run] ?? Array.from({ length: Math.ceil(run / 2) }, (_, i) => Math.min(2, run - 2 * i));
    for (const size of sizes) {
      groups.push(tracks.slice(from, from + size).map(({ number }) => number));
      from += size;
    }
  }
  return groups;
}

/** How many tracks from one on are mono, of its rate and language; 1 for one that is not mono. */
function monoRun(tracks: readonly Track[], from: number): number {
  const first = tracks[from];
  if (first?.channels !== 1) return 1;
  const other = tracks.findIndex(
    ({ channels, sampleRateHz, language }, i) =>
      i > from && (channels !== 1 || sampleRateHz !== first.sampleRateHz || language !== first.language),
  );
  return (other === -1 ? tracks.length : other) - from;
}
