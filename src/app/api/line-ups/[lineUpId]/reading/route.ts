import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { readLineUp } from '@/server/line-ups/line-up-reading';

export const GET = serve(OPERATIONS.readLineUp, ({ server, params, query }) =>
  readLineUp(server, params.lineUpId as string, query.spec),
);
