import { encodeArrays } from '@/formats/array-bundle';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { bytesResponse } from '@/server/http/query';
import { renderTransition } from '@/server/line-ups/transition';

export const GET = serve(OPERATIONS.transition, async ({ server, params, query }) => {
  const { channels, reductionDb, ...meta } = await renderTransition(server, params.lineUpId as string, query.after);
  const named = Object.fromEntries(channels.map((samples, channel) => [`channel${channel}`, samples]));
  const [first, second] = reductionDb;
  return bytesResponse(
    encodeArrays({
      meta: { ...meta, channels: channels.length },
      arrays: { ...named, reduction0: first, reduction1: second },
    }),
    { isCached: false },
  );
});
