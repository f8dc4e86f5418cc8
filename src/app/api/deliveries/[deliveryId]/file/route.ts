import { downloadDelivery } from '@/server/deliveries/download';
import { fileResponse } from '@/server/http/file';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.deliveryFile, async ({ server, request, params, query }) =>
  fileResponse(await downloadDelivery(server, params.deliveryId as string, query.part), request),
);
