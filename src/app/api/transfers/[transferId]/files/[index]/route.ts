import * as z from 'zod';
import { downloadDelivery } from '@/server/deliveries/download';
import { fileResponse } from '@/server/http/file';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { fetchedFile } from '@/server/receivers/transfers';

const place = z.coerce.number().int().min(0).max(23);

export const GET = serve(OPERATIONS.sentFile, async ({ server, request, params, query }) => {
  const { deliveryId } = fetchedFile(server, params.transferId as string, query.token);
  return fileResponse(await downloadDelivery(server, deliveryId, place.parse(params.index)), request);
});
