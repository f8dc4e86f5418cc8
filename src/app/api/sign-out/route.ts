import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { SESSION_COOKIE } from '@/server/people/gate';

export const POST = serve(OPERATIONS.signOut, ({ server, request }) => {
  server.gate.signOut(request.headers.get('cookie') ?? undefined);
  const cookie = `${SESSION_COOKIE}=; Path=/; HttpOnly; SameSite=Strict; Max-Age=0`;
  return new Response(null, { status: 204, headers: { 'Set-Cookie': cookie, 'Cache-Control': 'no-store' } });
});
