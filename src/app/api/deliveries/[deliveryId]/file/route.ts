import * as z from 'zod';
import { downloadDelivery } from '@/server/deliveries/download';
import { parseQuery } from '@/server/http/query';
import { respond } from '@/server/http/respond';
import { getServer } from '@/server/server';

/** The written file, streamed from disk; of several, the one that `part` counts to from 0. */
export function GET(request: Request, context: { params: Promise<{ deliveryId: string }> }): Promise<Response> {
  return respond(async () => {
    const { deliveryId } = await context.params;
    const { part } = parseQuery(
      request,
      z.object({ part: z.coerce.number().int().min(0).max(23).default(0) }),
      'a part from 0 on is',
    );
    const { fileName, mediaType, sizeBytes, body } = await downloadDelivery(getServer(), deliveryId, part);
    return new Response(body, {
      headers: {
        'Content-Type': mediaType,
        'Content-Length': String(sizeBytes),
        'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`,
        'Cache-Control': 'no-store',
      },
    });
  });
}
