import { addMissingEdges, clearEdges } from '@/server/deliveries/rows';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const POST = serve(OPERATIONS.addEdges, async ({ server, params }) => ({
  isAdded: await addMissingEdges(server, params.rowId as string),
}));

export const DELETE = serve(OPERATIONS.clearEdges, ({ server, params }) => clearEdges(server, params.rowId as string));
