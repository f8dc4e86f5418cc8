import * as z from 'zod';
import { downloadDelivery } from '@/server/deliveries/download';
import { fileResponse } from '@/server/http/file';
import { parseQuery } from '@/server/http/query';
import { respond } from '@/server/http/respond';
import { fetchedFile } from '@/server/receivers/sendings';
import { getServer } from '@/server/server';

type Context = { params: Promise<{ sendingId: string; index: string }> };

/** A file of a delivery, for the receiver that was told to fetch it. */
export function GET(request: Request, context: Context): Promise<Response> {
  return respond(async () => {
    const { sendingId, index } = await context.params;
    const { token } = parseQuery(
      request,
      z.object({ token: z.string().min(1).max(100) }),
      'the token of the sending is',
    );
    const server = getServer();
    const { deliveryId } = fetchedFile(server, sendingId, token);
    return fileResponse(
      await downloadDelivery(server, deliveryId, z.coerce.number().int().min(0).max(23).parse(index)),
    );
  });
}
