import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { listJobs } from '@/server/jobs/job-list';
import { createJob } from '@/server/jobs/jobs';

export const dynamic = 'force-dynamic';

export const GET = serve(OPERATIONS.listJobs, ({ server }) => listJobs(server));

export const POST = serve(OPERATIONS.createJob, ({ server, body }) => ({ jobId: createJob(server, body.name) }));
