import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { numberIsrcs } from '@/server/line-ups/isrcs';

export const POST = serve(OPERATIONS.numberIsrcs, ({ server, params, body }) => ({
  isrcs: numberIsrcs(server, params.lineUpId as string, body.first),
}));
