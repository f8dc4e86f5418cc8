import { changeLine, lineOf, removeLine } from '@/server/deliveries/lines';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const PATCH = serve(OPERATIONS.changeLine, ({ server, params, body }) =>
  changeLine(server, params.lineId as string, body),
);

export const DELETE = serve(OPERATIONS.removeLine, ({ server, params }) =>
  removeLine(server, lineOf(server, params.lineId as string).id),
);
