import type { JobSummary } from '@/server/jobs/jobs';
import { jobOrderMessages as messages } from './messages';

export const JOB_ORDERS = [
  { value: 'newest', label: messages.newestFirst },
  { value: 'name', label: messages.byName },
  { value: 'open', label: messages.leastFinishedFirst },
] as const;
export type JobOrder = (typeof JOB_ORDERS)[number]['value'];

const { compare } = new Intl.Collator('en', { numeric: true });

/** The jobs that a list shows: those whose names hold every word of the search, in the order chosen. */
export function shownJobs(
  jobs: readonly JobSummary[],
  { search, order, withArchived }: { search: string; order: JobOrder; withArchived: boolean },
): JobSummary[] {
  const words = search.toLocaleLowerCase().split(/\s+/).filter(Boolean);
  const shown = jobs.filter(({ name, isArchived }) => {
    const within = name.toLocaleLowerCase();
    return (withArchived || !isArchived) && words.every((word) => within.includes(word));
  });
  switch (order) {
    case 'newest':
      return shown.sort((a, b) => b.createdAtMs - a.createdAtMs);
    case 'name':
      return shown.sort((a, b) => compare(a.name, b.name));
    case 'open':
      return shown.sort((a, b) => finished(a) - finished(b));
  }
}

function finished({ programmes, measured, written, missing }: JobSummary): number {
  if (programmes === 0) return 0;
  return (measured + Math.min(programmes, written - missing)) / programmes;
}

/** How far a job is, in words. */
export function jobState({ programmes, measured, written, missing }: JobSummary): string {
  if (programmes === 0) return messages.nothingTakenInYet;
  const parts = [`${programmes} ${programmes === 1 ? 'programme' : 'programmes'}`];
  if (measured < programmes) parts.push(messages.notMeasured(programmes - measured));
  parts.push(written === 0 ? messages.nothingWrittenYet : `${written} written`);
  if (missing > 0) parts.push(messages.outsideTheSpec(missing));
  return parts.join(' · ');
}
