import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { bytesResponse } from '@/server/http/query';
import { lossyPreview } from '@/server/measure/lossy-preview';

/** As one bundle of an array for each channel. */
export const GET = serve(OPERATIONS.lossy, async ({ server, params, query: { treatment, codec, ...span } }) =>
  bytesResponse(await lossyPreview(server, params.programmeId as string, treatment, codec, span), { isCached: true }),
);
