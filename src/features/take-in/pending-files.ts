/** Files that were dropped before there was a job to take them in: they wait for its page. */
let pending: readonly File[] = [];

export function keepForNextJob(files: readonly File[]): void {
  pending = files;
}

/** What waits, once. */
export function takePending(): readonly File[] {
  const files = pending;
  pending = [];
  return files;
}
