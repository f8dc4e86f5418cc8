import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { lineRows } from '@/server/lines/lines';
import type { LinesEdited, LineTold } from '@/server/lines/live-lines';

export const dynamic = 'force-dynamic';

const KEEP_ALIVE_MS = 15_000;

export const GET = serve(OPERATIONS.liveLines, ({ server, request, query: { line } }) => {
  const { lines, events } = server;
  const encoder = new TextEncoder();
  const isAsked = (lineId: string) => line === undefined || line === lineId;
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      const tell = (told: LineTold | LinesEdited) => send(`data: ${JSON.stringify(told)}\n\n`);
      for (const { id } of lineRows(server)) {
        if (isAsked(id)) tell(lines.snapshot(id));
      }
      const stopListening = lines.listen((told) => {
        if (isAsked('live' in told ? told.live.lineId : told.lineId)) tell(told);
      });
      const stopEdits = events.listen(({ touched }) => {
        if (touched.some((own) => 'isShared' in own)) tell({ kind: 'edited' });
      });
      const keepAlive = setInterval(() => send(': still here\n\n'), KEEP_ALIVE_MS);
      request.signal.addEventListener(
        'abort',
        () => {
          stopListening();
          stopEdits();
          clearInterval(keepAlive);
          controller.close();
        },
        { once: true },
      );
    },
  });
  return new Response(body, {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' },
  });
});
