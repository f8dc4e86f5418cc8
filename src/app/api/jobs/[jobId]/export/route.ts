import { Readable } from 'node:stream';
import { respond } from '@/server/http/respond';
import { exportJob } from '@/server/jobs/export-job';
import { getServer } from '@/server/server';

/** The job as one ZIP, streamed as it is made. */
export function GET(_request: Request, context: { params: Promise<{ jobId: string }> }): Promise<Response> {
  return respond(async () => {
    const { fileName, body } = await exportJob(getServer(), (await context.params).jobId);
    return new Response(Readable.toWeb(body) as unknown as BodyInit, {
      headers: {
        'Content-Type': 'application/zip',
        'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`,
        'Cache-Control': 'no-store',
      },
    });
  });
}
