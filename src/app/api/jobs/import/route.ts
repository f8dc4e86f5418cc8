import { respond } from '@/server/http/respond';
import { receiveJob } from '@/server/jobs/import-job';
import { getServer } from '@/server/server';

/** Brings in a job from the ZIP in the request's body: PUT …/import?name=job.zip. */
export function PUT(request: Request): Promise<Response> {
  return respond(async () => {
    const fileName = new URL(request.url).searchParams.get('name') ?? 'job.zip';
    const jobId = await receiveJob(getServer(), fileName, request.body ?? noBytes());
    return Response.json({ jobId }, { status: 201 });
  });
}

async function* noBytes(): AsyncGenerator<Uint8Array> {}
