import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { setBalance } from '@/server/line-ups/balance';

export const POST = serve(OPERATIONS.balanceLineUp, ({ server, params, body }) =>
  setBalance(server, params.lineUpId as string, body.balance, body.specId),
);
