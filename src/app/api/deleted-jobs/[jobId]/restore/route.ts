import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { restoreJob } from '@/server/jobs/delete-job';

export const POST = serve(OPERATIONS.restoreJob, ({ server, params }) => restoreJob(server, params.jobId as string));
