import { certificateResponse } from '@/server/certificates/answer';
import { issuedCertificate } from '@/server/certificates/certificate';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.deliveryCertificate, async ({ server, params, query }) => {
  const certificate = await issuedCertificate(server, params.deliveryId as string);
  const stem = (certificate.files[0]?.fileName ?? 'delivery').replace(/\.[^.]+$/, '');
  return certificateResponse(query.as, [certificate], `${stem}_certificate`);
});
