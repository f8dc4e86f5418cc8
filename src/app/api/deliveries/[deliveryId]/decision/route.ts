import { acceptDelivery, discardDelivery } from '@/server/deliveries/decide';
import { solveAgain } from '@/server/deliveries/write-row';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { whoAsks } from '@/server/http/who';

export const POST = serve(OPERATIONS.decide, async ({ server, request, params, body }) => {
  const deliveryId = params.deliveryId as string;
  switch (body.decision) {
    case 'accept':
      acceptDelivery(server, deliveryId, body.reason, whoAsks(request.headers));
      return { deliveryId };
    case 'discard':
      await discardDelivery(server, deliveryId);
      return { deliveryId };
    case 'solve-again':
      return { deliveryId: await solveAgain(server, deliveryId) };
  }
});
