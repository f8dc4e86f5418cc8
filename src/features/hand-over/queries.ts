import { queryOptions } from '@tanstack/react-query';
import { answered, fetchJson } from '@/features/common/data/fetch-json';
import type { CopyOutView } from '@/server/deliveries/copy-out';
import { type Target, targetsOf } from './actions';

/** What decides which formats deliveries can have. */
export const targetsQuery = (target: Target) =>
  queryOptions({
    queryKey: ['job', target.jobId, 'targets', target.programmeId],
    queryFn: () => answered(targetsOf(target)),
  });

/** Where the files of a job are copied to, and how far that is; null without an output folder. */
export const copyOutQuery = (jobId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'copies'],
    queryFn: async ({ signal }) =>
      (await fetchJson<{ copyOut: CopyOutView | null }>(`/api/jobs/${jobId}/copies`, signal)).copyOut,
  });
