import { answerForIntake, signedJson } from '@/server/intake/http';
import { receive } from '@/server/intake/intake';

type Context = { params: Promise<{ intakeId: string }> };

/** A simulated intake is told of a delivery, and will fetch it. */
export async function POST(request: Request, context: Context): Promise<Response> {
  const { intakeId } = await context.params;
  // Where the line breaks off it is the answer that does: what was told has arrived, and its sender does not know.
  return answerForIntake(request, intakeId, async (server) =>
    Response.json(receive(server, intakeId, await signedJson(request)), { status: 202 }),
  );
}
