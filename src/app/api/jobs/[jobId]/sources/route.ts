import { AppError } from '@/core/errors/app-error';
import { respond } from '@/server/http/respond';
import { getServer } from '@/server/server';
import { takeIn } from '@/server/take-in/take-in';

/** Takes in the request's body as one file: PUT …/sources?name=mix.wav. */
export function PUT(request: Request, context: { params: Promise<{ jobId: string }> }): Promise<Response> {
  return respond(async () => {
    const { jobId } = await context.params;
    const fileName = new URL(request.url).searchParams.get('name');
    if (!fileName) throw new AppError('bad-request', { reason: 'the file has no name' });
    const announced = request.headers.get('content-length');
    const taken = await takeIn(getServer(), {
      jobId,
      fileName,
      body: request.body ?? noBytes(),
      ...(announced === null ? {} : { announcedBytes: Number(announced) }),
    });
    return Response.json(taken, { status: taken.alreadyThere ? 200 : 201 });
  });
}

async function* noBytes(): AsyncGenerator<Uint8Array> {}
