import { AppError } from '@/core/errors/app-error';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { lineMessages } from '@/server/lines/messages';

const MOST_BYTES = 4 << 20;

export const POST = serve(OPERATIONS.pushFrames, async ({ server, request, params, query }) => {
  const { session: sessionId, startFrame, sampleRateHz, channels } = query;
  const isTooLong = Number(request.headers.get('content-length') ?? Number.NaN) > MOST_BYTES;
  const bytes = isTooLong ? new Uint8Array(1) : new Uint8Array(await request.arrayBuffer());
  if (bytes.length > MOST_BYTES || bytes.length % (4 * channels) !== 0) {
    throw new AppError('bad-request', { reason: lineMessages.noFrames });
  }
  server.lines.push(params.lineId as string, { sessionId, startFrame, sampleRateHz, channels, bytes });
});
