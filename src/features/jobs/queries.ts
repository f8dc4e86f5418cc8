import { type QueryClient, queryOptions } from '@tanstack/react-query';
import { fetchJson } from '@/features/common/data/fetch-json';
import type { DeletedJob } from '@/server/jobs/delete-job';
import type { JobSummary } from '@/server/jobs/job-list';
import type { JobStanding } from '@/server/jobs/programme-list';

/** Every job with how far it is. */
export const jobsQuery = queryOptions({
  queryKey: ['jobs'],
  queryFn: ({ signal }) => fetchJson<JobSummary[]>('/api/jobs', signal),
});

/** Jobs that were deleted and can be restored. */
export const deletedJobsQuery = queryOptions({
  queryKey: ['deleted-jobs'],
  queryFn: ({ signal }) => fetchJson<DeletedJob[]>('/api/deleted-jobs', signal),
});

/** How a job's programmes stand against its spec. */
export const standingQuery = (jobId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'standing'],
    queryFn: ({ signal }) => fetchJson<JobStanding>(`/api/jobs/${jobId}/standing`, signal),
  });

/** Has what is shown of all jobs fetched again. */
export async function refreshJobs(client: QueryClient): Promise<void> {
  await Promise.all(
    [jobsQuery.queryKey, deletedJobsQuery.queryKey].map((queryKey) => client.invalidateQueries({ queryKey })),
  );
}
