import { addRow } from '@/server/deliveries/rows';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const POST = serve(OPERATIONS.addRow, ({ server, body }) => ({ rowId: addRow(server, body).id }));
