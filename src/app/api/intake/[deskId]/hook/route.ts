import { answerForDesk, signedJson } from '@/server/intake/http';
import { receive } from '@/server/intake/intake';

type Context = { params: Promise<{ deskId: string }> };

/** A simulated desk is told of a delivery, and will fetch it. */
export async function POST(request: Request, context: Context): Promise<Response> {
  const { deskId } = await context.params;
  return answerForDesk(request, deskId, async (server, _desk, isBroken) => {
    const manifest = await signedJson(request);
    // What breaks off in the middle may have arrived, or not.
    const answer = isBroken && Math.random() < 0.5 ? {} : receive(server, deskId, manifest);
    return Response.json(answer, { status: 202 });
  });
}
