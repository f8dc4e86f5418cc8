import { framesOf } from '@/server/http/frames';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const POST = serve(OPERATIONS.pushFrames, async ({ server, request, params, query }) => {
  const { session: sessionId, startFrame, sampleRateHz, channels } = query;
  const bytes = await framesOf(request, channels);
  server.lines.push(params.lineId as string, { sessionId, startFrame, sampleRateHz, channels, bytes });
});
