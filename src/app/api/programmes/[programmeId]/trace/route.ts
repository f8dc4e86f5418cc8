import * as z from 'zod';
import { preparationSchema } from '@/core/treatment/treatment';
import { bytesResponse, json, parseQuery } from '@/server/http/query';
import { respond } from '@/server/http/respond';
import { preparedProgramme } from '@/server/measure/limiting';
import { traceOf } from '@/server/measure/trace';
import { getServer } from '@/server/server';

const query = z.object({ preparation: json(preparationSchema), columns: z.coerce.number().int().min(1).max(8192) });

/** A programme as it is prepared: its readings, its series, and its waveform cut to so many columns, as one bundle. */
export function GET(request: Request, context: { params: Promise<{ programmeId: string }> }): Promise<Response> {
  return respond(async () => {
    const { preparation, columns } = parseQuery(request, query, 'a preparation and a number of columns are');
    const prepared = await preparedProgramme(getServer(), (await context.params).programmeId, preparation);
    return bytesResponse(await traceOf(prepared, columns), { isKept: true });
  });
}
