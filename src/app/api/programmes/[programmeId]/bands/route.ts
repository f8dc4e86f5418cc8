import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { bytesResponse } from '@/server/http/query';
import { bandsOf } from '@/server/measure/bands';

export const GET = serve(OPERATIONS.bands, async ({ server, params, query: { treatment, ...stretch } }) => {
  const bundle = await bandsOf(server, params.programmeId as string, treatment, stretch);
  return bytesResponse(bundle, { isCached: true });
});
