import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { deleteJob } from '@/server/jobs/delete-job';
import { chooseSpec, viewJob } from '@/server/jobs/jobs';

export const GET = serve(OPERATIONS.viewJob, ({ server, params }) => viewJob(server, params.jobId as string));

export const DELETE = serve(OPERATIONS.deleteJob, ({ server, params }) => deleteJob(server, params.jobId as string));

export const PATCH = serve(OPERATIONS.changeJob, ({ server, params, body }) => {
  chooseSpec(server, params.jobId as string, body.specId);
});
