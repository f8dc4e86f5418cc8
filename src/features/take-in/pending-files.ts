/** Files that were dropped before there was a job to take them in: they wait for its page. */
let pending: readonly File[] = [];

/** One alone leads to its desk once it is measured. */
let leads = false;

export function keepForNextJob(files: readonly File[]): void {
  pending = files;
  leads = files.length === 1;
}

/** Whether the page that takes them in leads on to the desk, once. */
export function takeLead(): boolean {
  const own = leads;
  leads = false;
  return own;
}

/** What waits, once. */
export function takePending(): readonly File[] {
  const files = pending;
  pending = [];
  return files;
}
