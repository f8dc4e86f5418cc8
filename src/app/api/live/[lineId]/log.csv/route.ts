import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { logCsv } from '@/server/lines/log-csv';

export const GET = serve(OPERATIONS.lineLogCsv, ({ server, params, query: { from, to } }) => {
  const { fileName, parts } = logCsv(server, params.lineId as string, from, to);
  const encoder = new TextEncoder();
  const body = new ReadableStream<Uint8Array>({
    pull(controller) {
      const { value, done } = parts.next();
      if (done) controller.close();
      else controller.enqueue(encoder.encode(value));
    },
  });
  return new Response(body, {
    headers: {
      'Content-Type': 'text/csv; charset=utf-8',
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`,
      'Cache-Control': 'no-store',
    },
  });
});
