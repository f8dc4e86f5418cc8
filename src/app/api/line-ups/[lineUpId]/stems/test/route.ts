import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { orderNullTest } from '@/server/stems/null-test';

export const POST = serve(OPERATIONS.testStems, ({ server, params }) => ({
  taskId: orderNullTest(server, params.lineUpId as string),
}));
