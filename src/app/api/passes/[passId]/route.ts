import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { forgetPass } from '@/server/outboard/passes';

export const DELETE = serve(OPERATIONS.removePass, async ({ server, params }) => {
  await server.passes.cancel(params.passId as string);
  await forgetPass(server, params.passId as string);
});
