import { acceptDelivery } from '@/server/deliveries/decide';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { whoAsks } from '@/server/http/who';

export const POST = serve(OPERATIONS.acceptDelivery, ({ server, request, params, body }) =>
  acceptDelivery(server, params.deliveryId as string, body.reason, whoAsks(request.headers)),
);
