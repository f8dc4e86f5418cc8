import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { viewJob } from '@/server/jobs/jobs';

export const GET = serve(OPERATIONS.viewJob, ({ server, params }) => viewJob(server, params.jobId as string));
