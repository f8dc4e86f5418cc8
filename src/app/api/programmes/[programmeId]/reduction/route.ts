import * as z from 'zod';
import { treatmentSchema } from '@/core/treatment/treatment';
import { encodeArrays } from '@/formats/array-bundle';
import { bytesResponse, json, parseQuery, stretchQuery } from '@/server/http/query';
import { respond } from '@/server/http/respond';
import { MOST_FRAMES } from '@/server/measure/frames';
import { traceStretch } from '@/server/measure/limiting';
import { getServer } from '@/server/server';

const query = z.object({
  treatment: json(treatmentSchema),
  ...stretchQuery,
  frames: stretchQuery.frames.max(MOST_FRAMES),
});

/** What a treatment's limiter takes in a stretch, as one bundle of an array for each group of channels. */
export function GET(request: Request, context: { params: Promise<{ programmeId: string }> }): Promise<Response> {
  return respond(async () => {
    const { treatment, ...stretch } = parseQuery(request, query, 'a treatment and a stretch of frames are');
    const trace = await traceStretch(getServer(), (await context.params).programmeId, treatment, stretch);
    const { reductions, ...meta } = trace ?? {
      reductions: [],
      startFrame: stretch.startFrame,
      nodeFrames: 1,
      groups: [],
    };
    const arrays = Object.fromEntries(reductions.map((own, group) => [`group${group}`, own]));
    return bytesResponse(encodeArrays({ meta, arrays }), { isKept: false });
  });
}
