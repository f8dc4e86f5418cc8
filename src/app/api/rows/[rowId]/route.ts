import { changeRow, removeRow, rowOf } from '@/server/deliveries/rows';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const PATCH = serve(OPERATIONS.changeRow, ({ server, params, body }) =>
  changeRow(server, params.rowId as string, body),
);

export const DELETE = serve(OPERATIONS.removeRow, ({ server, params }) =>
  removeRow(server, rowOf(server, params.rowId as string).id),
);
