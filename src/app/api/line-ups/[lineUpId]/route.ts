import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { changeLineUp, lineUpOf, removeLineUp } from '@/server/line-ups/line-ups';

export const PATCH = serve(OPERATIONS.changeLineUp, ({ server, params, body }) =>
  changeLineUp(server, params.lineUpId as string, body),
);

export const DELETE = serve(OPERATIONS.removeLineUp, ({ server, params }) =>
  removeLineUp(server, lineUpOf(server, params.lineUpId as string).id),
);
