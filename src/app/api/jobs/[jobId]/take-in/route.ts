import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { listTakenIn } from '@/server/jobs/take-in-list';

export const GET = serve(OPERATIONS.listTakenIn, ({ server, params, query: { spec, ...asked } }) =>
  listTakenIn(server, params.jobId as string, { specId: spec, ...asked }),
);
