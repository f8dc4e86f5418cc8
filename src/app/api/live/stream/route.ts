import { eventStream } from '@/server/http/event-stream';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { lineRows } from '@/server/lines/lines';
import type { LinesEdited, LineTold } from '@/server/lines/live-lines';

export const dynamic = 'force-dynamic';

export const GET = serve(OPERATIONS.liveLines, ({ server, request, query: { line } }) =>
  eventStream(request, (send) => {
    const { lines, events } = server;
    const isAsked = (lineId: string) => line === undefined || line === lineId;
    const tell = (told: LineTold | LinesEdited) => send(`data: ${JSON.stringify(told)}\n\n`);
    for (const { id } of lineRows(server)) if (isAsked(id)) tell(lines.snapshot(id));
    const stopListening = lines.listen((told) => {
      if (isAsked('live' in told ? told.live.lineId : told.lineId)) tell(told);
    });
    const stopEdits = events.listen(({ touched }) => {
      if (touched.some((own) => 'isShared' in own)) tell({ kind: 'edited' });
    });
    return () => {
      stopListening();
      stopEdits();
    };
  }),
);
