import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { viewDelivery } from '@/server/jobs/delivery-view';

export const GET = serve(OPERATIONS.viewDelivery, ({ server, params }) =>
  viewDelivery(server, params.deliveryId as string),
);
