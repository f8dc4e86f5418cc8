import { listBatches, orderBatch } from '@/server/batches/batches';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const POST = serve(OPERATIONS.createBatch, ({ server, params, body }) => ({
  batchId: orderBatch(server, params.jobId as string, body.programmeIds, body.wish),
}));

export const GET = serve(OPERATIONS.listBatches, ({ server, params }) => ({
  batches: listBatches(server, params.jobId as string),
}));
