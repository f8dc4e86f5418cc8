import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { standingOf } from '@/server/jobs/programme-list';

export const GET = serve(OPERATIONS.jobStanding, ({ server, params }) => standingOf(server, params.jobId as string));
