import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import type { NumberedEvent } from '@/server/tasks/event-log';

export const dynamic = 'force-dynamic';

const KEEP_ALIVE_MS = 15_000;

export const GET = serve(OPERATIONS.events, ({ server: { events }, request, query }) => {
  const encoder = new TextEncoder();
  // A browser that connects again names the last that it was told.
  const lastEventId = request.headers.get('last-event-id');
  const after = lastEventId === null ? query.after : Number(lastEventId);
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      const tell = (event: NumberedEvent) => send(`id: ${event.id}\ndata: ${JSON.stringify(event)}\n\n`);
      // Without data it is told to nobody, but where one is, is known from here on.
      send(`id: ${events.lastId}\n\n`);
      const missed = after === undefined ? [] : events.after(after);
      if (missed) missed.forEach(tell);
      else send('event: missed\ndata: {}\n\n');
      const stopListening = events.listen(tell);
      const keepAlive = setInterval(() => send(': still here\n\n'), KEEP_ALIVE_MS);
      request.signal.addEventListener(
        'abort',
        () => {
          stopListening();
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
