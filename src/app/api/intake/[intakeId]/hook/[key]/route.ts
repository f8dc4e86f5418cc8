import { answerForIntake } from '@/server/intake/http';
import { answerOf } from '@/server/intake/intake';

type Context = { params: Promise<{ intakeId: string; key: string }> };

/** What a simulated intake says of a delivery that it was told of. */
export async function GET(request: Request, context: Context): Promise<Response> {
  const { intakeId, key } = await context.params;
  return answerForIntake(request, intakeId, (server) => {
    const answer = answerOf(server, intakeId, key);
    return answer ? Response.json(answer) : new Response(null, { status: 404 });
  });
}
