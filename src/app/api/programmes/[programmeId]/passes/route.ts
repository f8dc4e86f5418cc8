import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const POST = serve(OPERATIONS.beginPass, async ({ server, params, body }) => ({
  passId: await server.passes.begin(params.programmeId as string, body),
}));
