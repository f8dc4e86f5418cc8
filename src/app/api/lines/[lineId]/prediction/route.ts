import { lineOf, predictionOf } from '@/server/deliveries/lines';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.predictLine, ({ server, params }) =>
  predictionOf(server, lineOf(server, params.lineId as string)),
);
