import { orderCopyOut, viewCopyOut } from '@/server/deliveries/copy-out';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.viewCopyOut, ({ server, params }) => ({
  copyOut: viewCopyOut(server, params.jobId as string),
}));

export const POST = serve(OPERATIONS.orderCopyOut, ({ server, params }) => ({
  taskId: orderCopyOut(server, params.jobId as string),
}));
