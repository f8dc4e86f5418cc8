import { sentNameSchema, transferKeySchema } from '@/core/receiver/manifest';
import { answerForIntake, signedJson } from '@/server/intake/http';
import { answerOf, receive } from '@/server/intake/intake';
import { parsePartRange, receivedOf, receivePart } from '@/server/intake/objects';
import { ANSWER_NAME, MANIFEST_NAME } from '@/server/receivers/transports/drop-folder';

type Context = { params: Promise<{ intakeId: string; key: string; name: string }> };

async function placeOf({ params }: Context) {
  const { intakeId, key, name } = await params;
  return { intakeId, key: transferKeySchema.parse(key), name: sentNameSchema.parse(decodeURIComponent(name)) };
}

/** How much of an object has arrived. */
export async function HEAD(request: Request, context: Context): Promise<Response> {
  const { intakeId } = await context.params;
  return answerForIntake(request, intakeId, async (server) => {
    const { key, name } = await placeOf(context);
    const received = await receivedOf(server, intakeId, key, name);
    return new Response(null, { status: received > 0 ? 200 : 404, headers: { 'X-Received': String(received) } });
  });
}

/** A part of an object; or, under its own name, what says that all of them are whole. */
export async function PUT(request: Request, context: Context): Promise<Response> {
  const { intakeId } = await context.params;
  return answerForIntake(request, intakeId, async (server, { rules }, isBroken) => {
    const { key, name } = await placeOf(context);
    if (name === MANIFEST_NAME)
      return Response.json(receive(server, intakeId, await signedJson(request)), { status: 202 });
    const range = parsePartRange(request.headers.get('Content-Range'));
    if (range.sizeBytes > rules.mostBytes) {
      return Response.json({ error: { happened: 'The object is larger than this store takes.' } }, { status: 413 });
    }
    const most = isBroken ? Math.ceil((range.end - range.start) / 2) : undefined;
    const received = await receivePart(server, { intakeId, key, name }, range, request.body, most);
    return new Response(null, { status: 200, headers: { 'X-Received': String(received) } });
  });
}

/** What the desk says of a delivery. */
export async function GET(request: Request, context: Context): Promise<Response> {
  const { intakeId } = await context.params;
  return answerForIntake(request, intakeId, async (server) => {
    const { key, name } = await placeOf(context);
    const answer = name === ANSWER_NAME ? answerOf(server, intakeId, key) : undefined;
    return answer ? Response.json(answer) : new Response(null, { status: 404 });
  });
}
