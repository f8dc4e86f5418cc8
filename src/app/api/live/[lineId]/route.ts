import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { changeLine, removeLine } from '@/server/lines/lines';
import { viewLiveLine } from '@/server/lines/views';

export const GET = serve(OPERATIONS.viewLine, ({ server, params }) => viewLiveLine(server, params.lineId as string));

export const PATCH = serve(OPERATIONS.changeLine, ({ server, params, body }) => {
  changeLine(server, params.lineId as string, body);
});

export const DELETE = serve(OPERATIONS.removeLine, ({ server, params }) => {
  removeLine(server, params.lineId as string);
});
