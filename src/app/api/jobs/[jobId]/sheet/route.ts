import { viewSheet } from '@/server/deliveries/sheet';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { viewJob } from '@/server/jobs/jobs';

export const GET = serve(OPERATIONS.viewSheet, ({ server, params }) =>
  viewSheet(server, viewJob(server, params.jobId as string)),
);
