import { and, asc, desc, eq, gt, inArray, isNull, lte, min, notInArray, or, type SQL, sql } from 'drizzle-orm';
import { AppError, type ErrorRecord } from '@/core/errors/app-error';
import type { Progress } from '@/workers/protocol';
import { among } from '../db/among';
import type { Db } from '../db/client';
import { inParts } from '../db/in-parts';
import { TASK_KINDS, type Task, type TaskKind, tasks } from '../db/schema';
import { newId } from '../ids';

/** A task that was begun so often, with its process ended each time, is not begun once more. */
const MOST_ATTEMPTS = 3;

export interface Clock {
  now(): number;
}

/**
 * Long work as rows. A task is claimed in one immediate transaction and is live (queued or running) at most once for
 * each kind and subject, so that asking twice does the work once.
 */
export class TaskQueue {
  /** @param onEnd called within the transaction that ends a task: what its subject becomes by that is set with it */
  constructor(
    private readonly db: Db,
    private readonly clock: Clock = Date,
    private readonly onEnd: (task: Task) => void = () => undefined,
  ) {}

  now(): number {
    return this.clock.now();
  }

  /** The live task for this subject, or a new one, to be taken up at once or not before a time. */
  enqueue(kind: TaskKind, subjectId: string, notBeforeMs: number | null = null): Task {
    return this.db.transaction(
      (tx) => {
        const live = tx
          .select()
          .from(tasks)
          .where(and(eq(tasks.kind, kind), eq(tasks.subjectId, subjectId), inArray(tasks.state, ['queued', 'running'])))
          .get();
        if (live) return live;
        return tx
          .insert(tasks)
          .values({
            id: newId(),
            kind,
            subjectId,
            state: 'queued',
            attempts: 0,
            fraction: 0,
            createdAtMs: this.clock.now(),
            notBeforeMs,
          })
          .returning()
          .all()[0] as Task;
      },
      { behavior: 'immediate' },
    );
  }

  /** Tasks for subjects that are new themselves: none of them can have one. */
  enqueueNew(kind: TaskKind, subjectIds: readonly string[]): void {
    const createdAtMs = this.clock.now();
    const queued = subjectIds.map((subjectId) => ({
      id: newId(),
      kind,
      subjectId,
      state: 'queued' as const,
      attempts: 0,
      fraction: 0,
      createdAtMs,
      notBeforeMs: null,
    }));
    for (const part of inParts(queued)) this.db.insert(tasks).values(part).run();
  }

  /** Takes the oldest queued task of some kinds that is due, or undefined. */
  claim(kinds: readonly TaskKind[] = TASK_KINDS): Task | undefined {
    return this.db.transaction(
      (tx) => {
        const now = this.clock.now();
        const next = tx
          .select()
          .from(tasks)
          .where(and(this.#isDue(), inArray(tasks.kind, [...kinds])))
          .orderBy(asc(tasks.createdAtMs))
          .get();
        if (!next) return undefined;
        return tx
          .update(tasks)
          .set({ state: 'running', attempts: next.attempts + 1, notBeforeMs: null, heartbeatAtMs: now })
          .where(eq(tasks.id, next.id))
          .returning()
          .all()[0];
      },
      { behavior: 'immediate' },
    );
  }

  /** Lays a running task back for a while. It has come that far without ending its process. */
  postpone(id: string, notBeforeMs: number): Task | undefined {
    return this.db
      .update(tasks)
      .set({ state: 'queued', attempts: 0, notBeforeMs })
      .where(and(eq(tasks.id, id), eq(tasks.state, 'running')))
      .returning()
      .all()[0];
  }

  /** Whether a queued task could be taken up now. */
  hasDue(): boolean {
    return this.db.select({ id: tasks.id }).from(tasks).where(this.#isDue()).get() !== undefined;
  }

  /** When the first of the tasks that were laid back is due; undefined where there is none but what is due already. */
  nextLaterMs(): number | undefined {
    const isLater = and(eq(tasks.state, 'queued'), gt(tasks.notBeforeMs, this.clock.now()));
    return (
      this.db
        .select({ dueMs: min(tasks.notBeforeMs) })
        .from(tasks)
        .where(isLater)
        .get()?.dueMs ?? undefined
    );
  }

  #isDue() {
    const isNow = or(isNull(tasks.notBeforeMs), lte(tasks.notBeforeMs, this.clock.now()));
    return and(eq(tasks.state, 'queued'), isNow);
  }

  /** Says that a running task is alive, and how far it is. */
  heartbeat(id: string, { fraction, timesRealTime }: Progress): void {
    this.db
      .update(tasks)
      .set({ fraction, timesRealTime, heartbeatAtMs: this.clock.now() })
      .where(and(eq(tasks.id, id), eq(tasks.state, 'running')))
      .run();
  }

  finish(id: string): Task | undefined {
    return this.#end(id, { state: 'done', fraction: 1 });
  }

  fail(id: string, error: ErrorRecord): Task | undefined {
    return this.#end(id, { state: 'failed', error });
  }

  cancel(id: string): Task | undefined {
    return this.#end(id, { state: 'cancelled' });
  }

  /** Cancels those of some tasks that wait; they are returned. */
  cancelQueued(ids: readonly string[]): Task[] {
    return this.db.transaction(
      (tx) => {
        const cancelled = tx
          .update(tasks)
          .set({ state: 'cancelled', finishedAtMs: this.clock.now() })
          .where(and(among(tasks.id, ids), eq(tasks.state, 'queued')))
          .returning()
          .all();
        for (const task of cancelled) this.onEnd(task);
        return cancelled;
      },
      { behavior: 'immediate' },
    );
  }

  get(id: string): Task | undefined {
    return this.db.select().from(tasks).where(eq(tasks.id, id)).get();
  }

  /** The newest task for each of some subjects. */
  latest(kind: TaskKind, subjectIds: readonly string[]): Map<string, Task> {
    if (subjectIds.length === 0) return new Map();
    const rows = this.db
      .select()
      .from(tasks)
      .where(and(eq(tasks.kind, kind), among(tasks.subjectId, subjectIds)))
      .orderBy(desc(tasks.createdAtMs))
      .all();
    const latest = new Map<string, Task>();
    for (const row of rows) if (!latest.has(row.subjectId)) latest.set(row.subjectId, row);
    return latest;
  }

  /**
   * Queues again what a process that is gone was running; what was running at the end of several, one after another, may be what ends them,
   * and is set aside. Only the holder of the data folder may call it.
   */
  resume(): void {
    const running = this.db.select().from(tasks).where(eq(tasks.state, 'running')).all();
    for (const { id, attempts } of running) {
      if (attempts >= MOST_ATTEMPTS) this.fail(id, new AppError('set-aside', { times: attempts }).toJSON());
    }
    this.db.update(tasks).set({ state: 'queued', fraction: 0 }).where(eq(tasks.state, 'running')).run();
  }

  /** Lays running tasks back for the next process, at an end that they have no part in. */
  release(ids: readonly string[]): void {
    this.#layBack(among(tasks.id, ids));
  }

  /** Queues again what is running by its row, though nobody runs it: its end could not be recorded. */
  requeueLost(runningIds: readonly string[]): void {
    this.#layBack(notInArray(tasks.id, [...runningIds]));
  }

  #layBack(which: SQL): void {
    this.db
      .update(tasks)
      .set({ state: 'queued', fraction: 0, attempts: sql`max(0, ${tasks.attempts} - 1)` })
      .where(and(eq(tasks.state, 'running'), which))
      .run();
  }

  #end(id: string, values: Partial<Task>): Task | undefined {
    return this.db.transaction(
      (tx) => {
        const [ended] = tx
          .update(tasks)
          .set({ ...values, finishedAtMs: this.clock.now() })
          .where(and(eq(tasks.id, id), inArray(tasks.state, ['queued', 'running'])))
          .returning()
          .all();
        if (ended) this.onEnd(ended);
        return ended;
      },
      { behavior: 'immediate' },
    );
  }
}
