import { predictionOf, rowOf } from '@/server/deliveries/rows';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.predictRow, ({ server, params }) =>
  predictionOf(server, rowOf(server, params.rowId as string)),
);
