import { downloadReview } from '@/server/batches/download';
import { fileResponse } from '@/server/http/file';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.reviewFile, async ({ server, request, params, query }) =>
  fileResponse(await downloadReview(server, params.batchId as string, query.part), request),
);
