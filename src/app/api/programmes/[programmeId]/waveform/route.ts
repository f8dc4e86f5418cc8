import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { bytesResponse } from '@/server/http/query';
import { preparedProgramme } from '@/server/measure/limiting';
import { waveformTile } from '@/server/measure/trace';

export const GET = serve(OPERATIONS.waveform, async ({ server, params, query: { preparation, ...tile } }) => {
  const prepared = await preparedProgramme(server, params.programmeId as string, preparation);
  return bytesResponse(await waveformTile(prepared, tile), { isCached: true });
});
