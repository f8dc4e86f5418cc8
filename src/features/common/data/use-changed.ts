import { useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { useJobId } from '../job';
import { refreshJob } from './changes';

/** Says that a person has changed something of the job: whatever is shown of it is fetched again. */
export function useChanged(): () => Promise<void> {
  const client = useQueryClient();
  const jobId = useJobId();
  return useCallback(() => refreshJob(client, jobId), [client, jobId]);
}
