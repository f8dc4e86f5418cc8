import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { SESSION_COOKIE, SESSION_SECONDS } from '@/server/people/gate';

export const POST = serve(OPERATIONS.signIn, async ({ server, request, body }) => {
  const token = await server.gate.signIn(body.name, body.passphrase, {
    browser: request.headers.get('user-agent') ?? '',
    address: request.headers.get('x-client-address') ?? '',
  });
  const secure = request.headers.get('x-scheme') === 'https' ? '; Secure' : '';
  const cookie = `${SESSION_COOKIE}=${token}; Path=/; HttpOnly; SameSite=Strict; Max-Age=${SESSION_SECONDS}${secure}`;
  return new Response(null, { status: 204, headers: { 'Set-Cookie': cookie, 'Cache-Control': 'no-store' } });
});
