import { viewBatch } from '@/server/batches/batches';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.readBatch, ({ server, params }) => viewBatch(server, params.batchId as string));
