import { isAppError, toErrorRecord } from '@/core/errors/app-error';
import { WorkerError } from '@/workers/node/pool';
import type { Progress } from '@/workers/protocol';
import type { Task, TaskKind, TaskState } from '../db/schema';
import { log } from '../log';
import type { TaskQueue } from './queue';

/** The clock may be set, and the machine sleep: it is looked up this often at least. */
const LONGEST_TIMER_MS = 60_000;
/** A disk that was full may have room again. */
const UNRECORDED_AGAIN_MS = 2000;

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

/** Thrown by a handler whose work can only go on later; meanwhile it takes nobody's place. */
export class Later extends Error {
  constructor(readonly afterMs: number) {
    super(`to go on in ${afterMs} ms`);
  }
}

function logEnd({ id, kind, subjectId, state, error }: Task): void {
  const said = { task: id, kind, subject: subjectId, state, ...(error ? { code: error.code } : {}) };
  if (state === 'failed') log.warn(said, error?.happened ?? 'a task failed');
  else log.info(said, 'a task ended');
}

/** Tasks of some kinds, so many of them at a time. */
export interface Lane {
  kinds: readonly TaskKind[];
  most: number;
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

/** Runs queued tasks, so many of each lane at a time: what waits for a line does not keep what needs a thread waiting. */
export class TaskRunner {
  readonly #queue: TaskQueue;
  readonly #handlers: Record<TaskKind, TaskHandler>;
  readonly #lanes: readonly Lane[];
  readonly #publish: (event: TaskEvent) => void;
  readonly #isReady: () => boolean;
  readonly #running = new Map<string, { kind: TaskKind; controller: AbortController }>();
  #timer: NodeJS.Timeout | undefined;
  #idle: (() => void)[] = [];
  #stopped = false;

  constructor(options: {
    queue: TaskQueue;
    handlers: Record<TaskKind, TaskHandler>;
    lanes: readonly Lane[];
    publish: (event: TaskEvent) => void;
    /** Whether what is done can be saved. Until it is so, nothing is taken up, and nothing that ends is recorded. */
    isReady?: () => boolean;
  }) {
    this.#queue = options.queue;
    this.#handlers = options.handlers;
    this.#lanes = options.lanes;
    this.#publish = options.publish;
    this.#isReady = options.isReady ?? (() => true);
  }

  /** Starts what is queued. Call it whenever a task has been added. Where nothing can be recorded, it is tried again later. */
  wake(): void {
    if (this.#stopped) return;
    if (!this.#isReady()) {
      this.#wakeAfter(UNRECORDED_AGAIN_MS);
      return;
    }
    try {
      this.#queue.requeueLost([...this.#running.keys()]);
      for (const { kinds, most } of this.#lanes) {
        while (this.#count(kinds) < most) {
          const task = this.#queue.claim(kinds);
          if (!task) break;
          void this.#run(task);
        }
      }
      this.#wakeWhenDue();
    } catch (error) {
      this.#tellUnrecorded(error);
      this.#wakeAfter(UNRECORDED_AGAIN_MS);
    }
  }

  #tellUnrecorded(error: unknown): void {
    log.error({ err: error }, 'tasks could not be recorded; this is tried again in a few seconds');
  }

  #wakeAfter(waitMs: number): void {
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.wake(), waitMs);
    // Nothing is held up by it: what is queued is taken up by the next process.
    this.#timer.unref();
  }

  #count(kinds: readonly TaskKind[]): number {
    let count = 0;
    for (const { kind } of this.#running.values()) if (kinds.includes(kind)) count++;
    return count;
  }

  /** What is queued for later wakes the runner then. */
  #wakeWhenDue(): void {
    clearTimeout(this.#timer);
    // What is due already waits for its lane, and is taken up when something in it ends.
    const dueMs = this.#queue.nextLaterMs();
    if (dueMs !== undefined) {
      this.#wakeAfter(Math.min(LONGEST_TIMER_MS, Math.max(1, dueMs - this.#queue.now())));
    }
    if (this.#running.size === 0 && !this.#queue.hasDue()) {
      for (const resolve of this.#idle) resolve();
      this.#idle = [];
    }
  }

  /** Cancels a task, whether it waits or runs. */
  cancel(id: string): void {
    const running = this.#running.get(id);
    if (running) {
      running.controller.abort();
      return;
    }
    const task = this.#queue.cancel(id);
    if (task) this.#announce(task);
  }

  /** Cancels many: those that have ended stay what they are. */
  cancelEach(ids: readonly string[]): void {
    for (const task of this.#queue.cancelQueued(ids)) this.#announce(task);
    for (const id of ids) this.#running.get(id)?.controller.abort();
  }

  /** Resolves when nothing runs and nothing is due. */
  whenIdle(): Promise<void> {
    return new Promise((resolve) => {
      this.#idle.push(resolve);
      this.wake();
    });
  }

  /** Ends what runs, which is queued again: it is resumed by the next process. */
  stop(): void {
    if (this.#stopped) return;
    this.#stopped = true;
    clearTimeout(this.#timer);
    this.#queue.release([...this.#running.keys()]);
    for (const { controller } of this.#running.values()) controller.abort();
  }

  async #run(task: Task): Promise<void> {
    const controller = new AbortController();
    this.#running.set(task.id, { kind: task.kind, controller });
    this.#announce(task);
    const onProgress = (progress: Progress) => {
      try {
        this.#queue.heartbeat(task.id, progress);
      } catch (error) {
        // How far it is may go unrecorded: the work goes on, and whoever tells of it may be a stream that nobody catches anything of.
        this.#tellUnrecorded(error);
      }
      this.#announce({ ...task, ...progress });
    };
    const end = await this.#perform(task, { signal: controller.signal, onProgress });
    this.#running.delete(task.id);
    if (!this.#isReady()) return this.#wakeAfter(UNRECORDED_AGAIN_MS);
    try {
      const ended = end();
      if (ended) {
        this.#announce(ended);
        logEnd(ended);
      }
      this.wake();
    } catch (error) {
      // Its row still says that it runs: it is queued again once that can be recorded, by this process or the next.
      if (this.#stopped) return;
      this.#tellUnrecorded(error);
      this.#wakeAfter(UNRECORDED_AGAIN_MS);
    }
  }

  /** @returns how its end is to be recorded */
  async #perform(task: Task, context: TaskContext): Promise<() => Task | undefined> {
    try {
      await this.#handlers[task.kind](task.subjectId, context);
      return () => this.#queue.finish(task.id);
    } catch (error) {
      if (this.#stopped) return () => undefined;
      // Also what was about to be deferred, or failed, when it was cancelled: it must not be taken up again.
      if (context.signal.aborted || isAppError(error, 'cancelled')) return () => this.#queue.cancel(task.id);
      if (error instanceof Later) return () => this.#queue.postpone(task.id, this.#queue.now() + error.afterMs);
      return () => this.#queue.fail(task.id, error instanceof WorkerError ? error.record : toErrorRecord(error));
    }
  }

  #announce({ id, kind, subjectId, state, fraction, timesRealTime }: Task): void {
    this.#publish({ taskId: id, kind, subjectId, state, fraction, timesRealTime });
  }
}
