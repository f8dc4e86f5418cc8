import { zipWritten } from '@/server/deliveries/download-all';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { zipResponse } from '@/server/http/zip-response';

export const GET = serve(OPERATIONS.writtenZip, async ({ server, params }) =>
  zipResponse(await zipWritten(server, params.jobId as string)),
);
