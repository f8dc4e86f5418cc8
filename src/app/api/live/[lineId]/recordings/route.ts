import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { lineRow } from '@/server/lines/lines';
import { recordingsOf } from '@/server/lines/recordings';

export const GET = serve(OPERATIONS.lineRecordings, ({ server, params }) => {
  const { id } = lineRow(server, params.lineId as string);
  return { recordings: recordingsOf(server, id) };
});
