import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { createLineUp } from '@/server/line-ups/line-ups';
import { viewLineUps } from '@/server/line-ups/proposals';

export const GET = serve(OPERATIONS.listLineUps, ({ server, params }) => viewLineUps(server, params.jobId as string));

export const POST = serve(OPERATIONS.createLineUp, ({ server, params, body }) => ({
  lineUpId: createLineUp(server, params.jobId as string, body),
}));
