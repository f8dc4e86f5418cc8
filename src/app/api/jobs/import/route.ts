import { bytesOf, serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { receiveJob } from '@/server/jobs/import-job';

export const PUT = serve(OPERATIONS.importJob, async ({ server, request, query }) => ({
  jobId: await receiveJob(server, query.name, bytesOf(request)),
}));
