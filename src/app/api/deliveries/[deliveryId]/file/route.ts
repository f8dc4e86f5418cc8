import * as z from 'zod';
import { downloadDelivery } from '@/server/deliveries/download';
import { fileResponse } from '@/server/http/file';
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
    return fileResponse(await downloadDelivery(getServer(), deliveryId, part));
  });
}
