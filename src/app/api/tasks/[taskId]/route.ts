import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { steerTask, viewTask } from '@/server/tasks/view';

export const GET = serve(OPERATIONS.viewTask, ({ server, params }) => viewTask(server, params.taskId as string));

export const POST = serve(OPERATIONS.steerTask, ({ server, params, body }) =>
  steerTask(server, params.taskId as string, body.do),
);
