import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { viewTransfer } from '@/server/receivers/transfer-view';

export const GET = serve(OPERATIONS.viewTransfer, ({ server, params }) =>
  viewTransfer(server, params.transferId as string),
);
