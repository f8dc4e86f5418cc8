import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { viewDelivery } from '@/server/jobs/jobs';

export const GET = serve(OPERATIONS.viewDelivery, ({ server, params }) =>
  viewDelivery(server, params.deliveryId as string),
);
