import { slug } from '@/core/delivery/file-name';
import { certificateResponse } from '@/server/certificates/answer';
import { issuedCertificates } from '@/server/certificates/certificate';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { jobOf } from '@/server/jobs/jobs';

export const GET = serve(OPERATIONS.jobCertificates, async ({ server, params, query }) => {
  const { id, name } = jobOf(server, params.jobId as string);
  return certificateResponse(query.as, await issuedCertificates(server, id), `${slug(name)}_certificates`, true);
});
