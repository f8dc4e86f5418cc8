/** Tried so often before a person is asked. */
export const MOST_TRIES = 10;

const FIRST_WAIT_MS = 1000;
const LONGEST_WAIT_MS = 60_000;

/** What is sent to one receiver fails at the same moment; by so much of the wait each comes back apart from the others. */
const JITTER = 0.2;

/**
 * How long to wait after a try that failed: twice as long each time, and a minute at most.
 *
 * @param tries that failed, counted from 1
 * @param chance from 0 to 1, another for each who waits: up to a fifth is taken off
 */
export function backOffMs(tries: number, chance: number): number {
  const longest = Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** Math.max(0, tries - 1));
  return Math.round(longest * (1 - JITTER * chance));
}

/** How long to wait before an answer is asked for once more, having waited so long already. */
export function askAgainMs(waitedMs: number): number {
  return Math.min(LONGEST_WAIT_MS, Math.max(FIRST_WAIT_MS, waitedMs / 4));
}
