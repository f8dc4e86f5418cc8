import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { bytesResponse } from '@/server/http/query';
import { preparedProgramme } from '@/server/measure/limiting';
import { traceOf } from '@/server/measure/trace';

export const GET = serve(OPERATIONS.trace, async ({ server, params, query: { preparation, columns } }) => {
  const prepared = await preparedProgramme(server, params.programmeId as string, preparation);
  return bytesResponse(await traceOf(prepared, columns), { isCached: true });
});
