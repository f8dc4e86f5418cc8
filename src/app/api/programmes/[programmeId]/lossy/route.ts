import * as z from 'zod';
import { treatmentSchema } from '@/core/treatment/treatment';
import { PREVIEW_CODECS } from '@/formats/preview-codecs';
import { bytesResponse, json, parseQuery, stretchQuery } from '@/server/http/query';
import { respond } from '@/server/http/respond';
import { lossyPreview } from '@/server/measure/lossy-preview';
import { getServer } from '@/server/server';

const query = z.object({
  treatment: json(treatmentSchema),
  codec: z.enum(PREVIEW_CODECS.map(({ id }) => id)),
  ...stretchQuery,
});

/** A span of a programme as a codec leaves it, as one bundle of an array for each channel. */
export function GET(request: Request, context: { params: Promise<{ programmeId: string }> }): Promise<Response> {
  return respond(async () => {
    const { treatment, codec, ...span } = parseQuery(request, query, 'a treatment, a codec and a span are');
    const { programmeId } = await context.params;
    return bytesResponse(await lossyPreview(getServer(), programmeId, treatment, codec, span), { isKept: true });
  });
}
