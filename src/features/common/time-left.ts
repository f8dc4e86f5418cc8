/** So much of the work must be seen done, and so long be watched, before anything is said of the rest. */
const LEAST_FRACTION = 0.02;
const LEAST_SECONDS = 3;

/** How far work was at a moment. */
export interface Seen {
  fraction: number;
  atMs: number;
}

/**
 * Seconds that work will go on for, as fast as it went since it was first seen.
 *
 * @returns null while too little was seen
 */
export function secondsLeft(first: Seen, now: Seen): number | null {
  const done = now.fraction - first.fraction;
  const seconds = (now.atMs - first.atMs) / 1000;
  if (done < LEAST_FRACTION || seconds < LEAST_SECONDS) return null;
  return (seconds * (1 - now.fraction)) / done;
}
