import { encodeArrays } from '@/formats/array-bundle';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { bytesResponse } from '@/server/http/query';
import { readResidual } from '@/server/stems/null-test';

export const GET = serve(OPERATIONS.residual, async ({ server, params, query }) => {
  const { channels, sampleRateHz } = await readResidual(server, params.lineUpId as string, {
    startFrame: query.from,
    frames: query.frames,
  });
  const arrays = Object.fromEntries(channels.map((samples, channel) => [`channel${channel}`, samples]));
  return bytesResponse(encodeArrays({ meta: { sampleRateHz, channels: channels.length }, arrays }), {
    isCached: false,
  });
});
