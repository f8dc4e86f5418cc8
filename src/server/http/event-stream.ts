const KEEP_ALIVE_MS = 15_000;

/**
 * Server-sent events, for as long as whoever asked listens.
 *
 * @param start begins to send text in the form of such events; returns what stops it
 */
export function eventStream({ signal }: Request, start: (send: (text: string) => void) => () => void): Response {
  const encoder = new TextEncoder();
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      const stop = start(send);
      const keepAlive = setInterval(() => send(': still here\n\n'), KEEP_ALIVE_MS);
      signal.addEventListener(
        'abort',
        () => {
          stop();
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
}
