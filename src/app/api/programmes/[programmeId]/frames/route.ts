import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { bytesResponse } from '@/server/http/query';
import { framesOf } from '@/server/measure/frames';
import { preparedProgramme } from '@/server/measure/limiting';

export const GET = serve(OPERATIONS.frames, async ({ server, params, query: { preparation, ...stretch } }) => {
  const prepared = await preparedProgramme(server, params.programmeId as string, preparation);
  return bytesResponse(await framesOf(prepared, stretch), { isCached: true });
});
