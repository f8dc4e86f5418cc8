import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { whoAsks } from '@/server/http/who';
import { endSession } from '@/server/people/people';

export const DELETE = serve(OPERATIONS.endSession, ({ server, request, params }) =>
  endSession(server, whoAsks(request.headers), params.sessionId as string),
);
