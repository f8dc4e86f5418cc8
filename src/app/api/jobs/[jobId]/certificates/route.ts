import { slug } from '@/core/delivery/file-name';
import { certificateResponse } from '@/server/certificates/answer';
import { certificatesOf } from '@/server/certificates/certificate';
import { respond } from '@/server/http/respond';
import { viewJob } from '@/server/jobs/jobs';
import { getServer } from '@/server/server';

/** A summary of everything that a job has handed over, and every certificate, as PDF or, with `as=json`, as JSON. */
export function GET(request: Request, context: { params: Promise<{ jobId: string }> }): Promise<Response> {
  return respond(async () => {
    const { id, name } = viewJob(getServer(), (await context.params).jobId);
    return certificateResponse(request, certificatesOf(getServer(), id), `${slug(name)}_certificates`, true);
  });
}
