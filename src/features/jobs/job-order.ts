import type { JobSummary } from '@/server/jobs/job-list';
import { jobOrderMessages as messages } from './messages';

export const JOB_ORDERS = [
  { value: 'touched', label: messages.lastTouchedFirst },
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
    case 'touched':
      return shown.sort((a, b) => b.touchedAtMs - a.touchedAtMs);
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

/** What is written and sent of a job, in words. */
export function jobState({ programmes, written, missing, accepted, refused, underway }: JobSummary): string {
  if (programmes === 0) return messages.nothingTakenInYet;
  return [
    messages.programmes(programmes),
    written === 0 ? messages.nothingWrittenYet : messages.written(written),
    ...(missing > 0 ? [messages.outsideTheSpec(missing)] : []),
    ...(accepted > 0 ? [messages.accepted(accepted)] : []),
    ...(underway > 0 ? [messages.underway(underway)] : []),
    ...(refused > 0 ? [messages.refused(refused)] : []),
  ].join(' · ');
}

/** What comes next in a job, and on which of its tabs. */
export interface NextStep {
  text: string;
  stage: 'take-in' | 'measure-and-set' | 'hand-over';
}

/**
 * The first thing in the order of the work that somebody has to do, or to wait for; null once all is done.
 *
 * @param outside programmes that are outside the spec as they are treated; undefined until that is known
 */
export function nextStep(job: JobSummary, outside: number | undefined): NextStep | null {
  const { programmes, measured, written, undecided, toWrite, refused } = job;
  if (programmes === 0) return { text: messages.takeFilesIn, stage: 'take-in' };
  if (measured < programmes) return { text: messages.measure(programmes - measured), stage: 'take-in' };
  if (refused > 0) return { text: messages.answerRefusals(refused), stage: 'hand-over' };
  if (undecided > 0) return { text: messages.decide(undecided), stage: 'hand-over' };
  if (toWrite > 0) return { text: messages.write(toWrite), stage: 'hand-over' };
  if (written > 0) return null;
  if (outside === undefined) return null;
  if (outside > 0) return { text: messages.set(outside), stage: 'measure-and-set' };
  return { text: messages.addDeliveries, stage: 'hand-over' };
}
