import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { takeInRenderings } from '@/server/take-in/renderings';

export const POST = serve(OPERATIONS.takeInRenderings, ({ server, params, body }) =>
  takeInRenderings(server, params.programmeId as string, body.renderings),
);
