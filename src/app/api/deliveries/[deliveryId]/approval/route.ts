import { approveDelivery } from '@/server/deliveries/decide';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { whoAsks } from '@/server/http/who';

export const POST = serve(OPERATIONS.approveDelivery, ({ server, request, params }) =>
  approveDelivery(server, params.deliveryId as string, whoAsks(request.headers)),
);
