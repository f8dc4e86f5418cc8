import { zipReviews } from '@/server/batches/download';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { zipResponse } from '@/server/http/zip-response';

export const GET = serve(OPERATIONS.reviewZip, async ({ server, params }) =>
  zipResponse(await zipReviews(server, params.batchId as string)),
);
