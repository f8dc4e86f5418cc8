import { encodeArrays } from '@/formats/array-bundle';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { bytesResponse } from '@/server/http/query';
import { reductionStretch } from '@/server/measure/limiting';

/** As one bundle of an array for each group of channels. */
export const GET = serve(OPERATIONS.reduction, async ({ server, params, query: { treatment, ...stretch } }) => {
  const reduction = await reductionStretch(server, params.programmeId as string, treatment, stretch);
  const { reductions, ...meta } = reduction ?? {
    reductions: [],
    startFrame: stretch.startFrame,
    nodeFrames: 1,
    groups: [],
  };
  const arrays = Object.fromEntries(reductions.map((own, group) => [`group${group}`, own]));
  return bytesResponse(encodeArrays({ meta, arrays }), { isCached: false });
});
