import { viewSheet } from '@/server/deliveries/sheet';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.viewSheet, ({ server, params, query }) =>
  viewSheet(server, params.jobId as string, query.programme),
);
