import * as z from 'zod';
import { preparationSchema } from '@/core/treatment/treatment';
import { bytesResponse, json, parseQuery, stretchQuery } from '@/server/http/query';
import { respond } from '@/server/http/respond';
import { framesOf } from '@/server/measure/frames';
import { preparedProgramme } from '@/server/measure/limiting';
import { getServer } from '@/server/server';

const query = z.object({ preparation: json(preparationSchema), ...stretchQuery });

/** A programme's frames as it is prepared, as one bundle: no more than some seconds at a time, and none behind its end. */
export function GET(request: Request, context: { params: Promise<{ programmeId: string }> }): Promise<Response> {
  return respond(async () => {
    const { preparation, ...stretch } = parseQuery(request, query, 'a preparation and a stretch of frames are');
    const prepared = await preparedProgramme(getServer(), (await context.params).programmeId, preparation);
    return bytesResponse(await framesOf(prepared, stretch), { isKept: true });
  });
}
