import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { whoAsks } from '@/server/http/who';
import { addToken } from '@/server/people/people';

export const POST = serve(OPERATIONS.addToken, ({ server, request, body }) => {
  const { id, token } = addToken(server, whoAsks(request.headers), body);
  return { tokenId: id, token };
});
