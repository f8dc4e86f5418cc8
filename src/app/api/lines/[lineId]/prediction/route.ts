import { lineOf, predictionOf } from '@/server/deliveries/lines';
import { respond } from '@/server/http/respond';
import { getServer } from '@/server/server';

/** What a row of the hand-over sheet will be; worked out now, unless it was before. */
export function GET(_request: Request, context: { params: Promise<{ lineId: string }> }): Promise<Response> {
  return respond(async () => {
    const server = getServer();
    const prediction = await predictionOf(server, lineOf(server, (await context.params).lineId));
    return Response.json(prediction, { headers: { 'Cache-Control': 'no-store' } });
  });
}
