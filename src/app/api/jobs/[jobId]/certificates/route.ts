import { slug } from '@/core/delivery/file-name';
import { certificateResponse } from '@/server/certificates/answer';
import { certificatesOf } from '@/server/certificates/certificate';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { viewJob } from '@/server/jobs/jobs';

export const GET = serve(OPERATIONS.jobCertificates, ({ server, params, query }) => {
  const { id, name } = viewJob(server, params.jobId as string);
  return certificateResponse(query.as, certificatesOf(server, id), `${slug(name)}_certificates`, true);
});
