import * as z from 'zod';
import { gainDbSchema } from '@/core/treatment/gain';
import { limitSchema } from '@/core/treatment/steps/limit';
import { preparationSchema } from '@/core/treatment/treatment';
import { encodeArrays } from '@/formats/array-bundle';
import { bytesResponse, json, parseQuery } from '@/server/http/query';
import { respond } from '@/server/http/respond';
import { limitedReadings, limiterAnswers } from '@/server/measure/limiting';
import { getServer } from '@/server/server';

const query = z.union([
  z.object({ preparation: json(preparationSchema), spec: z.string().min(1).max(64) }),
  z.object({
    preparation: json(preparationSchema),
    gainDb: z.coerce.number().pipe(gainDbSchema),
    limit: json(limitSchema),
  }),
]);

/**
 * Of a programme as it is prepared: what a limiter could do for a spec, or what one makes of a gain, as a bundle of its
 * readings with `weightedPower` and `reductionsDb` of every 100 ms. Nothing is written.
 */
export function GET(request: Request, context: { params: Promise<{ programmeId: string }> }): Promise<Response> {
  return respond(async () => {
    const { programmeId } = await context.params;
    const asked = parseQuery(request, query, 'a preparation, and a spec, or a gain and a limiter, are');
    const server = getServer();
    if ('spec' in asked) {
      return Response.json({ answers: await limiterAnswers(server, programmeId, asked.preparation, asked.spec) });
    }
    const { preparation, gainDb, limit } = asked;
    const limiting = { gainDb, ceilingDbtp: limit.ceilingDbtp, releaseMs: limit.releaseMs };
    const { readings, reduction, ...curves } = await limitedReadings(server, programmeId, preparation, limiting);
    const weightedPower = Float32Array.from(curves.weightedPower);
    const { reductionsDb } = curves;
    return bytesResponse(encodeArrays({ meta: { readings, reduction }, arrays: { weightedPower, reductionsDb } }), {
      isKept: false,
    });
  });
}
