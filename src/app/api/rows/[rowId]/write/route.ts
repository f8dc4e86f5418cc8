import { writeRow } from '@/server/deliveries/write-row';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const POST = serve(OPERATIONS.writeRow, async ({ server, params }) => ({
  deliveryId: await writeRow(server, params.rowId as string),
}));
