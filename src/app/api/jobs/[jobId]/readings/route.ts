import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { readingsCsv } from '@/server/jobs/readings-csv';

export const GET = serve(OPERATIONS.readingsCsv, ({ server, params }) => {
  const { fileName, text } = readingsCsv(server, params.jobId as string);
  return new Response(text, {
    headers: {
      'Content-Type': 'text/csv; charset=utf-8',
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`,
      'Cache-Control': 'no-store',
    },
  });
});
