import { queryOptions } from '@tanstack/react-query';
import { fetchJson } from '@/features/common/data/fetch-json';
import type { JobSummary } from '@/server/jobs/job-list';
import type { JobStanding } from '@/server/jobs/programme-list';

/** Every job with how far it is. */
export const jobsQuery = queryOptions({
  queryKey: ['jobs'],
  queryFn: ({ signal }) => fetchJson<JobSummary[]>('/api/jobs', signal),
});

/** How a job's programmes stand against its spec. */
export const standingQuery = (jobId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'standing'],
    queryFn: ({ signal }) => fetchJson<JobStanding>(`/api/jobs/${jobId}/standing`, signal),
  });
