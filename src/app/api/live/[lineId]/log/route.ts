import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { readLog } from '@/server/lines/line-log';
import { lineRow } from '@/server/lines/lines';

export const GET = serve(OPERATIONS.lineLog, ({ server, params, query: { from, to, step } }) => {
  const { id } = lineRow(server, params.lineId as string);
  return { steps: readLog(server, id, from, to, step) };
});
