'use server';

import * as z from 'zod';
import { answer } from '@/server/http/action';
import { getServer } from '@/server/server';
import type { ActionResult } from './action-result';

const id = z.string().min(1).max(64);

export async function cancelTask(taskId: string): Promise<ActionResult> {
  return answer(() => {
    getServer().runner.cancel(id.parse(taskId));
    return undefined;
  });
}

/** Queues a task's work once more. */
export async function retryTask(taskId: string): Promise<ActionResult> {
  return answer(() => {
    const { queue, runner } = getServer();
    const task = queue.get(id.parse(taskId));
    if (task) {
      queue.enqueue(task.kind, task.subjectId);
      runner.wake();
    }
    return undefined;
  });
}
