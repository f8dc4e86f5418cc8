import { queryOptions, skipToken } from '@tanstack/react-query';
import { answered, fetchJson } from '@/features/common/data/fetch-json';
import type { ReplacementView } from '@/server/jobs/replace';
import { replacementsOf } from './actions';

/** Programmes of a job that may be a new version of one of them, the likeliest first. */
export const replacementsQuery = (jobId: string, programmeId: string) =>
  queryOptions({
    queryKey: ['job', jobId, 'replacements', programmeId],
    queryFn: () => answered(replacementsOf(jobId, programmeId)),
  });

/** What would be different if one took the place of another. */
export const replacementQuery = (programmeId: string, byId: string | null) =>
  queryOptions({
    queryKey: ['programme', programmeId, 'replacement', byId],
    queryFn:
      byId === null
        ? skipToken
        : ({ signal }) =>
            fetchJson<ReplacementView>(
              `/api/programmes/${programmeId}/replacement?${new URLSearchParams({ by: byId })}`,
              signal,
            ),
    retry: false,
  });
