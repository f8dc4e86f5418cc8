import { queryOptions } from '@tanstack/react-query';
import type { SheetView } from '@/server/deliveries/sheet';
import type { Part, ProgrammeItem } from '@/server/jobs/programme-list';
import type { ProgrammeView } from '@/server/jobs/programme-view';
import type { TakeInListing, TakenIn } from '@/server/jobs/take-in-list';
import { namesOfJob } from '../job-actions';
import { answered, fetchJson } from './fetch-json';

/** All that pages know of the server, each under its key: what is said to have changed is fetched again, and nothing else. */

/** Rows of a long list that are fetched together. */
export const PART_ROWS = 60;

/** A programme with all that is known of it. */
export const programmeQuery = (programmeId: string) =>
  queryOptions({
    queryKey: ['programme', programmeId],
    queryFn: ({ signal }) => fetchJson<ProgrammeView>(`/api/programmes/${programmeId}`, signal),
  });

/** What the programmes of a job are called. */
export const namesQuery = (jobId: string) =>
  queryOptions({ queryKey: ['job', jobId, 'names'], queryFn: () => answered(namesOfJob(jobId)) });

/** What a part of a long list is asked for with. */
export interface PartQuery<P> {
  queryKey: readonly unknown[];
  queryFn: (context: { signal: AbortSignal }) => Promise<P>;
}

/** A part of a job's programmes at a glance, against a spec. */
export const programmesQuery = (jobId: string, specId: string, part: number): PartQuery<Part<ProgrammeItem>> => ({
  queryKey: ['job', jobId, 'programmes', specId, part],
  queryFn: ({ signal }) =>
    fetchJson(`/api/jobs/${jobId}/programmes?${new URLSearchParams({ spec: specId, ...windowOf(part) })}`, signal),
});

/** A part of a job's programmes as they came in. */
export const takenInQuery = (
  jobId: string,
  specId: string,
  { order, find, show }: TakeInListing,
  part: number,
): PartQuery<TakenIn> => ({
  queryKey: ['job', jobId, 'taken-in', specId, order, find, show, part],
  queryFn: ({ signal }) => {
    const asked = new URLSearchParams({ spec: specId, order, find, show, ...windowOf(part) });
    return fetchJson(`/api/jobs/${jobId}/take-in?${asked}`, signal);
  },
});

/** Everything, as it came. */
export const WHOLE_LISTING: TakeInListing = { order: 'taken-in', find: '', show: 'all' };

/** The hand-over sheet of a job, or of one of its programmes. */
export const sheetQuery = (jobId: string, programmeId: string | null) =>
  queryOptions({
    queryKey: ['job', jobId, 'sheet', programmeId],
    queryFn: ({ signal }) =>
      fetchJson<SheetView>(
        `/api/jobs/${jobId}/sheet${programmeId === null ? '' : `?${new URLSearchParams({ programme: programmeId })}`}`,
        signal,
      ),
  });

function windowOf(part: number): { offset: string; limit: string } {
  return { offset: String(part * PART_ROWS), limit: String(PART_ROWS) };
}
