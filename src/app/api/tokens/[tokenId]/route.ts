import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { whoAsks } from '@/server/http/who';
import { removeToken } from '@/server/people/people';

export const DELETE = serve(OPERATIONS.removeToken, ({ server, request, params }) =>
  removeToken(server, whoAsks(request.headers), params.tokenId as string),
);
