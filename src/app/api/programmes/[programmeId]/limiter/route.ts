import { encodeArrays } from '@/formats/array-bundle';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { bytesResponse } from '@/server/http/query';
import { limitedReadings, limiterOptions } from '@/server/measure/limiting';

/** What one makes of a gain is a bundle of its readings with `weightedPower` and `reductionsDb` of every 100 ms. */
export const GET = serve(OPERATIONS.limiter, async ({ server, params, query }) => {
  const programmeId = params.programmeId as string;
  if ('spec' in query) {
    return { options: await limiterOptions(server, programmeId, query.preparation, query.spec) };
  }
  const { preparation, gainDb, limit } = query;
  const { ceilingDbtp, lookAheadMs, releaseMs } = limit;
  const limiting = { gainDb, ceilingDbtp, lookAheadMs, releaseMs };
  const { readings, reduction, ...curves } = await limitedReadings(server, programmeId, preparation, limiting);
  const weightedPower = Float32Array.from(curves.weightedPower);
  const { reductionsDb } = curves;
  return bytesResponse(encodeArrays({ meta: { readings, reduction }, arrays: { weightedPower, reductionsDb } }), {
    isCached: false,
  });
});
