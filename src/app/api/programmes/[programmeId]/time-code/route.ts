import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { setTimeCode } from '@/server/take-in/time-code';

export const PUT = serve(OPERATIONS.setTimeCode, ({ server, params, body }) =>
  setTimeCode(server, params.programmeId as string, body.timeCode),
);
