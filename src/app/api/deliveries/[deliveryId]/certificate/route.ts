import { certificateResponse } from '@/server/certificates/answer';
import { certificateOf } from '@/server/certificates/certificate';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.deliveryCertificate, ({ server, params, query }) => {
  const certificate = certificateOf(server, params.deliveryId as string);
  const stem = (certificate.files[0]?.fileName ?? 'delivery').replace(/\.[^.]+$/, '');
  return certificateResponse(query.as, [certificate], `${stem}_certificate`);
});
