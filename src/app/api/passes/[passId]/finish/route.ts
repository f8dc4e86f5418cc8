import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const POST = serve(OPERATIONS.finishPass, ({ server, params, body }) =>
  server.passes.finish(params.passId as string, body.firstFrame),
);
