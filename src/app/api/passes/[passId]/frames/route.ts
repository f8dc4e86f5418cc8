import { framesOf } from '@/server/http/frames';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const POST = serve(OPERATIONS.pushPassFrames, async ({ server, request, params, query }) => {
  const passId = params.passId as string;
  const bytes = await framesOf(request, 2 * server.passes.channelsOf(passId));
  server.passes.push(passId, query.startFrame, new Float32Array(bytes.buffer));
});
