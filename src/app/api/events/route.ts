import { eventStream } from '@/server/http/event-stream';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import type { NumberedEvent } from '@/server/tasks/event-log';

export const dynamic = 'force-dynamic';

export const GET = serve(OPERATIONS.events, ({ server: { events }, request, query }) => {
  // A browser that connects again names the last that it was told.
  const lastEventId = request.headers.get('last-event-id');
  const after = lastEventId === null ? query.after : Number(lastEventId);
  return eventStream(request, (send) => {
    const tell = (event: NumberedEvent) => send(`id: ${event.id}\ndata: ${JSON.stringify(event)}\n\n`);
    // Without data it is told to nobody, but where one is, is known from here on.
    send(`id: ${events.lastId}\n\n`);
    const missed = after === undefined ? [] : events.after(after);
    if (missed) missed.forEach(tell);
    else send('event: missed\ndata: {}\n\n');
    return events.listen(tell);
  });
});
