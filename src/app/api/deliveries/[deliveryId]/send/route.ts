import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { sendDelivery } from '@/server/receivers/transfers';

export const POST = serve(OPERATIONS.sendDelivery, ({ server, params, body }) => ({
  transferId: sendDelivery(server, params.deliveryId as string, body.receiverId),
}));
