import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { listProgrammes } from '@/server/jobs/programme-list';

export const GET = serve(OPERATIONS.listProgrammes, ({ server, params, query: { spec, ...window } }) =>
  listProgrammes(server, params.jobId as string, spec, window),
);
