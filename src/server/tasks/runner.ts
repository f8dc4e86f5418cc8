import { isAppError, toErrorRecord } from '@/core/errors/app-error';
import { WorkerError } from '@/workers/node/pool';
import type { Progress } from '@/workers/protocol';
import type { Task, TaskKind, TaskState } from '../db/schema';
import type { TaskQueue } from './queue';

export interface TaskContext {
  signal: AbortSignal;
  onProgress: (progress: Progress) => void;
}

/** Reports a part of a task as the stretch of the whole that it takes. */
export function scaled(report: TaskContext['onProgress'], from: number, to: number): TaskContext['onProgress'] {
  return ({ fraction, timesRealTime }) => report({ fraction: from + (to - from) * fraction, timesRealTime });
}

/** For what is asked for by a page, and no task. */
export function quietly(): TaskContext {
  return { signal: new AbortController().signal, onProgress: () => undefined };
}

export type TaskHandler = (subjectId: string, context: TaskContext) => Promise<void>;

/** What a page is told of a task while it waits, runs and ends. */
export interface TaskEvent {
  taskId: string;
  kind: TaskKind;
  subjectId: string;
  state: TaskState;
  fraction: number;
  timesRealTime: number | null;
}

/** Runs queued tasks, as many at a time as there are worker threads. */
export class TaskRunner {
  readonly #queue: TaskQueue;
  readonly #handlers: Record<TaskKind, TaskHandler>;
  readonly #concurrency: number;
  readonly #publish: (event: TaskEvent) => void;
  readonly #running = new Map<string, AbortController>();
  #idle: (() => void)[] = [];
  #stopped = false;

  constructor(options: {
    queue: TaskQueue;
    handlers: Record<TaskKind, TaskHandler>;
    concurrency: number;
    publish: (event: TaskEvent) => void;
  }) {
    this.#queue = options.queue;
    this.#handlers = options.handlers;
    this.#concurrency = options.concurrency;
    this.#publish = options.publish;
  }

  /** Starts what is queued. Call it whenever a task has been added. */
  wake(): void {
    while (!this.#stopped && this.#running.size < this.#concurrency) {
      const task = this.#queue.claim();
      if (!task) break;
      void this.#run(task);
    }
    if (this.#running.size === 0) {
      for (const resolve of this.#idle) resolve();
      this.#idle = [];
    }
  }

  /** Cancels a task, whether it waits or runs. */
  cancel(id: string): void {
    const running = this.#running.get(id);
    if (running) {
      running.abort();
      return;
    }
    const task = this.#queue.cancel(id);
    if (task) this.#announce(task);
  }

  /** Resolves when nothing is queued or running. */
  whenIdle(): Promise<void> {
    return new Promise((resolve) => {
      this.#idle.push(resolve);
      this.wake();
    });
  }

  /** Ends what runs, without a trace in the queue: it is resumed by the next process. */
  stop(): void {
    this.#stopped = true;
    for (const controller of this.#running.values()) controller.abort();
  }

  async #run(task: Task): Promise<void> {
    const controller = new AbortController();
    this.#running.set(task.id, controller);
    this.#announce(task);
    const onProgress = (progress: Progress) => {
      this.#queue.heartbeat(task.id, progress);
      this.#announce({ ...task, ...progress });
    };
    const ended = await this.#perform(task, { signal: controller.signal, onProgress });
    this.#running.delete(task.id);
    if (ended) this.#announce(ended);
    this.wake();
  }

  async #perform(task: Task, context: TaskContext): Promise<Task | undefined> {
    try {
      await this.#handlers[task.kind](task.subjectId, context);
      return this.#queue.finish(task.id);
    } catch (error) {
      if (this.#stopped) return undefined;
      if (isAppError(error, 'cancelled')) return this.#queue.cancel(task.id);
      return this.#queue.fail(task.id, error instanceof WorkerError ? error.record : toErrorRecord(error));
    }
  }

  #announce({ id, kind, subjectId, state, fraction, timesRealTime }: Task): void {
    this.#publish({ taskId: id, kind, subjectId, state, fraction, timesRealTime });
  }
}
