'use server';

import * as z from 'zod';
import { answer } from '@/server/http/action';
import { getServer } from '@/server/server';
import { steerTask } from '@/server/tasks/view';
import type { ActionResult } from './action-result';

const id = z.string().min(1).max(64);

export async function cancelTask(taskId: string): Promise<ActionResult> {
  return answer(() => {
    steerTask(getServer(), id.parse(taskId), 'cancel');
    return undefined;
  });
}

/** Cancels many tasks; those that have ended meanwhile stay what they are. */
export async function cancelTasks(taskIds: readonly string[]): Promise<ActionResult> {
  return answer(() => {
    getServer().runner.cancelEach(z.array(id).min(1).max(10_000).parse(taskIds));
    return undefined;
  });
}

/** Queues a task's work once more. */
export async function retryTask(taskId: string): Promise<ActionResult> {
  return answer(() => {
    steerTask(getServer(), id.parse(taskId), 'retry');
    return undefined;
  });
}
