import { queryOptions } from '@tanstack/react-query';
import type { BatchView } from '@/server/batches/batches';
import type { TemplateView } from '@/server/deliveries/templates';
import { fetchJson } from '../data/fetch-json';

/** What was asked of many programmes of a job, the newest first. */
export const batchesQuery = (jobId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'batches'],
    queryFn: async ({ signal }) =>
      (await fetchJson<{ batches: BatchView[] }>(`/api/jobs/${jobId}/batches`, signal)).batches,
  });

/** What can be applied to programmes. */
export const templatesQuery = queryOptions({
  queryKey: ['templates'],
  queryFn: async ({ signal }) => (await fetchJson<{ templates: TemplateView[] }>('/api/templates', signal)).templates,
});
