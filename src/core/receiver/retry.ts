/** Tried so often before a person is asked. */
export const MOST_TRIES = 10;

const FIRST_WAIT_MS = 1000;
const LONGEST_WAIT_MS = 60_000;

/** How long to wait after a try that failed, counted from 1: twice as long each time, and a minute at most. */
export function backOffMs(tries: number): number {
  return Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** Math.max(0, tries - 1));
}

/** How long to wait before an answer is asked for once more, having waited so long already. */
export function askAgainMs(waitedMs: number): number {
  return Math.min(LONGEST_WAIT_MS, Math.max(FIRST_WAIT_MS, waitedMs / 4));
}
