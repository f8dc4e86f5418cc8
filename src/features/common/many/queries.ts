import { queryOptions } from '@tanstack/react-query';
import type { BatchView } from '@/server/batches/batches';
import { fetchJson } from '../data/fetch-json';

/** What was asked of many programmes of a job, the newest first. */
export const batchesQuery = (jobId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'batches'],
    queryFn: async ({ signal }) =>
      (await fetchJson<{ batches: BatchView[] }>(`/api/jobs/${jobId}/batches`, signal)).batches,
  });
