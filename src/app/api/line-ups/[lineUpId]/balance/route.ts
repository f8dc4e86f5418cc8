import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { forecastBalances, setBalance } from '@/server/line-ups/balance';

export const POST = serve(OPERATIONS.balanceLineUp, ({ server, params, body }) =>
  setBalance(server, params.lineUpId as string, body.balance, body.specId),
);

export const GET = serve(OPERATIONS.forecastBalances, async ({ server, params, query }) => ({
  forecasts: await forecastBalances(server, params.lineUpId as string, query.spec),
}));
