import * as z from 'zod';
import { WAVEFORM_LEVELS } from '@/core/loudness/waveform';
import { preparationSchema } from '@/core/treatment/treatment';
import { bytesResponse, json, parseQuery } from '@/server/http/query';
import { respond } from '@/server/http/respond';
import { preparedProgramme } from '@/server/measure/limiting';
import { waveformTile } from '@/server/measure/trace';
import { getServer } from '@/server/server';

const query = z.object({
  preparation: json(preparationSchema),
  level: z.coerce
    .number()
    .int()
    .min(0)
    .max(WAVEFORM_LEVELS.length - 1),
  firstBucket: z.coerce.number().int().nonnegative(),
  buckets: z.coerce.number().int().min(1).max(8192),
});

/** Buckets of one level of each channel's waveform, as one bundle. */
export function GET(request: Request, context: { params: Promise<{ programmeId: string }> }): Promise<Response> {
  return respond(async () => {
    const { preparation, ...tile } = parseQuery(request, query, 'a preparation, a level and a number of buckets are');
    const prepared = await preparedProgramme(getServer(), (await context.params).programmeId, preparation);
    return bytesResponse(await waveformTile(prepared, tile), { isKept: true });
  });
}
