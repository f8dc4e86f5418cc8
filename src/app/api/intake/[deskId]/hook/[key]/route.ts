import { answerForDesk } from '@/server/intake/http';
import { answerOf } from '@/server/intake/intake';

type Context = { params: Promise<{ deskId: string; key: string }> };

/** What a simulated desk says of a delivery that it was told of. */
export async function GET(request: Request, context: Context): Promise<Response> {
  const { deskId, key } = await context.params;
  return answerForDesk(request, deskId, (server) => {
    const answer = answerOf(server, deskId, key);
    return answer ? Response.json(answer) : new Response(null, { status: 404 });
  });
}
