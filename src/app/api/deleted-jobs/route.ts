import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { listDeletedJobs } from '@/server/jobs/delete-job';

export const dynamic = 'force-dynamic';

export const GET = serve(OPERATIONS.listDeletedJobs, ({ server }) => listDeletedJobs(server));
