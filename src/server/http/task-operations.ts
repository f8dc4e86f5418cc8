/** Tasks, and the events that tell of them. */
import * as z from 'zod';
import { taskAnswer } from './answers';
import { operation } from './operation';

export const TASK_OPERATIONS = {
  viewTask: operation({
    method: 'GET',
    path: '/api/tasks/{taskId}',
    tag: 'Tasks',
    summary: 'How far a task is.',
    answer: taskAnswer,
  }),
  steerTask: operation({
    method: 'POST',
    path: '/api/tasks/{taskId}',
    tag: 'Tasks',
    status: 204,
    summary: 'Cancels a task, or has its work done once more.',
    body: z.object({ do: z.enum(['cancel', 'retry']) }),
  }),
  events: operation({
    method: 'GET',
    path: '/api/events',
    tag: 'Tasks',
    summary:
      'Every change of every task, and of what is set (kind "edit"), as server-sent events; first, those after an event that is named here or in Last-Event-ID. Where these are not known any more, an event of the type "missed".',
    query: z.object({ after: z.coerce.number().int().nonnegative().optional() }),
    answer: 'events',
  }),
};
