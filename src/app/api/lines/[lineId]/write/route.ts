import { writeLine } from '@/server/deliveries/write-row';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const POST = serve(OPERATIONS.writeLine, async ({ server, params }) => ({
  deliveryId: await writeLine(server, params.lineId as string),
}));
