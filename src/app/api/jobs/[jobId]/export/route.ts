import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { zipResponse } from '@/server/http/zip-response';
import { exportJob } from '@/server/jobs/export-job';

export const GET = serve(OPERATIONS.exportJob, async ({ server, params }) =>
  zipResponse(await exportJob(server, params.jobId as string)),
);
