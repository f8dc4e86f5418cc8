import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { webStream } from '@/server/http/web-stream';
import { exportJob } from '@/server/jobs/export-job';

export const GET = serve(OPERATIONS.exportJob, async ({ server, params }) => {
  const { fileName, body } = await exportJob(server, params.jobId as string);
  return new Response(webStream(body), {
    headers: {
      'Content-Type': 'application/zip',
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`,
      'Cache-Control': 'no-store',
    },
  });
});
