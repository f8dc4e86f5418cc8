import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { addLine } from '@/server/lines/lines';
import { viewLiveLines } from '@/server/lines/views';

export const dynamic = 'force-dynamic';

export const GET = serve(OPERATIONS.listLines, ({ server }) => ({ lines: viewLiveLines(server) }));

export const POST = serve(OPERATIONS.addLine, ({ server, body }) => ({ lineId: addLine(server, body) }));
