import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { changeReceiver, removeReceiver } from '@/server/receivers/receivers';

export const PUT = serve(OPERATIONS.changeReceiver, ({ server, params, body }) =>
  changeReceiver(server, params.receiverId as string, body),
);

export const DELETE = serve(OPERATIONS.removeReceiver, ({ server, params }) =>
  removeReceiver(server, params.receiverId as string),
);
