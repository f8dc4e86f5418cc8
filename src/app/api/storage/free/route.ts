import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const POST = serve(OPERATIONS.freeStorage, async ({ server, body }) => ({
  freedBytes: await server.house.free(body.kinds),
}));
