import { queryOptions } from '@tanstack/react-query';
import { answered } from '@/features/common/data/fetch-json';
import { namesOfJob, type Target, targetsOf } from './actions';

/** What the programmes of a job are called. */
export const namesQuery = (jobId: string) =>
  queryOptions({ queryKey: ['job', jobId, 'names'], queryFn: () => answered(namesOfJob(jobId)) });

/** What decides which formats deliveries can have. */
export const targetsQuery = (target: Target) =>
  queryOptions({
    queryKey: ['job', target.jobId, 'targets', target.programmeId],
    queryFn: () => answered(targetsOf(target)),
  });
