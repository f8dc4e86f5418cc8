import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { controlLine } from '@/server/lines/control';

export const POST = serve(OPERATIONS.controlLine, async ({ server, params, body }) => ({
  recordingId: await controlLine(server, params.lineId as string, body),
}));
