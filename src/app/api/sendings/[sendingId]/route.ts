import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { viewSending } from '@/server/receivers/sendings';

export const GET = serve(OPERATIONS.viewSending, ({ server, params }) =>
  viewSending(server, params.sendingId as string),
);
