import { queryOptions } from '@tanstack/react-query';
import { fetchJson } from '@/features/common/data/fetch-json';
import type { LineUpReadingView } from '@/server/line-ups/line-up-reading';
import type { LineUpsView } from '@/server/line-ups/proposals';

/** The line-ups of a job, and those that names suggest. */
export const lineUpsQuery = (jobId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'line-ups'],
    queryFn: ({ signal }) => fetchJson<LineUpsView>(`/api/jobs/${jobId}/line-ups`, signal),
  });

/** A line-up as it is set, read as one programme. */
export const lineUpReadingQuery = (jobId: string, lineUpId: string, specId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'line-up-reading', lineUpId, specId],
    queryFn: ({ signal }) =>
      fetchJson<LineUpReadingView>(
        `/api/line-ups/${lineUpId}/reading?${new URLSearchParams({ spec: specId })}`,
        signal,
      ),
    // What was read before stays until what has changed is read.
    placeholderData: (before) => (before?.lineUp.id === lineUpId ? before : undefined),
  });
