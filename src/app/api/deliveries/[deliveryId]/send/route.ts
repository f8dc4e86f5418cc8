import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { sendDelivery } from '@/server/receivers/sendings';

export const POST = serve(OPERATIONS.sendDelivery, ({ server, params, body }) => ({
  sendingId: sendDelivery(server, params.deliveryId as string, body.receiverId),
}));
