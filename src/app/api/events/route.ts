import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const dynamic = 'force-dynamic';

const KEEP_ALIVE_MS = 15_000;

export const GET = serve(OPERATIONS.events, ({ server, request }) => {
  const encoder = new TextEncoder();
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      const stopListening = server.onTask((event) => send(`data: ${JSON.stringify(event)}\n\n`));
      const keepAlive = setInterval(() => send(': still here\n\n'), KEEP_ALIVE_MS);
      send(': open\n\n');
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
