import { AppError, type ErrorRecord } from '@/core/errors/app-error';
import { reopenAssembly } from '../assemblies/assembly-record';
import type { ServerContext } from '../context';
import type { Task } from '../db/schema';
import { reopenDelivery } from '../deliveries/delivery-record';
import type { TaskEvent } from './runner';

/** A task as pages and others see it. */
export interface TaskView extends TaskEvent {
  error: ErrorRecord | null;
}

export function taskView({ id, kind, subjectId, state, fraction, timesRealTime, error }: Task): TaskView {
  return { taskId: id, kind, subjectId, state, fraction, timesRealTime, error };
}

export function taskOrNull(task: Task | undefined): TaskView | null {
  return task ? taskView(task) : null;
}

/** Throws `not-found`. */
export function viewTask({ queue }: ServerContext, taskId: string): TaskView {
  const task = queue.get(taskId);
  if (!task) throw new AppError('not-found', { what: 'task' });
  return taskView(task);
}

/** Cancels a task, or queues its work once more. Throws `not-found`. */
export function steerTask(server: ServerContext, taskId: string, what: 'cancel' | 'retry'): void {
  const { kind, subjectId } = viewTask(server, taskId);
  const { queue, runner } = server;
  if (what === 'cancel') {
    runner.cancel(taskId);
  } else {
    server.db.transaction(
      () => {
        if (kind === 'render') reopenDelivery(server, subjectId);
        if (kind === 'assemble') reopenAssembly(server, subjectId);
        queue.enqueue(kind, subjectId);
      },
      { behavior: 'immediate' },
    );
    runner.wake();
  }
}
