/** What can be asked over HTTP of the folder that finished files are copied into. */
import * as z from 'zod';
import { taskAnswer } from './answers';
import { operation } from './operation';

export const COPY_OUT_OPERATIONS = {
  viewCopyOut: operation({
    method: 'GET',
    path: '/api/jobs/{jobId}/copies',
    tag: 'Hand over',
    summary: 'Where files of a job are copied to on the server, and how far that is; null without an output folder.',
    answer: z.object({ copyOut: z.object({ path: z.string(), task: taskAnswer.nullable() }).nullable() }),
  }),
  orderCopyOut: operation({
    method: 'POST',
    path: '/api/jobs/{jobId}/copies',
    tag: 'Hand over',
    status: 202,
    summary: 'Copies everything that can be handed over into the output folder of the server; a task does it.',
    answer: z.object({ taskId: z.string() }),
  }),
};
