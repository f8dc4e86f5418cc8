import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { eventsBetween } from '@/server/lines/line-events';
import { lineRow } from '@/server/lines/lines';

export const GET = serve(OPERATIONS.lineEvents, ({ server, params, query: { from, to, limit } }) => {
  const { id } = lineRow(server, params.lineId as string);
  return { events: eventsBetween(server, id, from, to, limit) };
});
