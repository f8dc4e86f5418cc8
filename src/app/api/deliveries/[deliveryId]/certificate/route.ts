import { certificateResponse } from '@/server/certificates/answer';
import { certificateOf } from '@/server/certificates/certificate';
import { respond } from '@/server/http/respond';
import { getServer } from '@/server/server';

/** The certificate of a written delivery, as PDF or, with `as=json`, as JSON. */
export function GET(request: Request, context: { params: Promise<{ deliveryId: string }> }): Promise<Response> {
  return respond(async () => {
    const certificate = certificateOf(getServer(), (await context.params).deliveryId);
    const stem = (certificate.files[0]?.fileName ?? 'delivery').replace(/\.[^.]+$/, '');
    return certificateResponse(request, [certificate], `${stem}_certificate`);
  });
}
