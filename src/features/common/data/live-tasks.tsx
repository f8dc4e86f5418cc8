'use client';

import { useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { createContext, type ReactNode, useContext, useEffect, useState, useSyncExternalStore } from 'react';
import type { NumberedEvent } from '@/server/tasks/event-log';
import type { Touched } from '@/server/tasks/touched';
import type { TaskView } from '@/server/tasks/view';
import { useJobId } from '../job';
import { type Seen, secondsLeft } from '../time-left';
import { refreshArrived, refreshTouched } from './changes';
import { HeardEvents } from './heard-events';

/** What ends within so long is fetched together. */
const GATHER_MS = 120;
/** A connection that is away for less is nothing to speak of. */
const LOST_AFTER_MS = 3000;

type OfTask = Exclude<NumberedEvent, { kind: 'edit' }>;

/** What was heard of a task last, and how long it will still take; null while that is not known. */
type HeardTask = OfTask & { secondsLeft: number | null };

/** What has been heard of tasks, each of which is listened to by itself; and what they have touched. */
class LiveTasks {
  readonly events = new HeardEvents();
  readonly #heard = new Map<string, HeardTask>();
  /** How far tasks that run were when this was heard first. */
  readonly #firstSeen = new Map<string, Seen>();
  readonly #listeners = new Map<string, Set<() => void>>();
  #isLost = false;

  get isLost(): boolean {
    return this.#isLost;
  }

  heardOf(taskId: string | undefined): HeardTask | undefined {
    return taskId === undefined ? undefined : this.#heard.get(taskId);
  }

  hear(event: NumberedEvent): void {
    this.events.hear(event);
    if (event.kind === 'edit') return;
    this.#heard.set(event.taskId, { ...event, secondsLeft: this.#secondsLeft(event) });
    this.#tell(event.taskId);
  }

  #secondsLeft({ taskId, state, fraction }: OfTask): number | null {
    if (state !== 'running') {
      this.#firstSeen.delete(taskId);
      return null;
    }
    const now = { fraction, atMs: Date.now() };
    const first = this.#firstSeen.get(taskId);
    if (first && first.fraction <= fraction) return secondsLeft(first, now);
    this.#firstSeen.set(taskId, now);
    return null;
  }

  setLost(isLost: boolean): void {
    if (this.#isLost === isLost) return;
    this.#isLost = isLost;
    this.#tell(CONNECTION);
  }

  subscribe(to: string, listener: () => void): () => void {
    const own = this.#listeners.get(to) ?? new Set();
    this.#listeners.set(to, own.add(listener));
    return () => {
      own.delete(listener);
      if (own.size === 0) this.#listeners.delete(to);
    };
  }

  #tell(about: string): void {
    for (const listener of this.#listeners.get(about) ?? []) listener();
  }
}

const CONNECTION = 'connection';
const Tasks = createContext<LiveTasks | undefined>(undefined);

/** Listens to the server's tasks; when one ends, what it has touched is fetched again. */
export function LiveTasksProvider({ children }: { children: ReactNode }) {
  const client = useQueryClient();
  const router = useRouter();
  const jobId = useJobId();
  const [tasks] = useState(() => new LiveTasks());
  useEffect(() => {
    const from = tasks.events.begin();
    const source = new EventSource(`/api/events${from === undefined ? '' : `?after=${from}`}`);
    let begun: Touched[] = [];
    let ended: Touched[] = [];
    let gathering: ReturnType<typeof setTimeout> | undefined;
    let losing: ReturnType<typeof setTimeout> | undefined;
    const refresh = () => {
      gathering = undefined;
      const [arrived, touched] = [begun, ended];
      [begun, ended] = [[], []];
      // What can not be fetched now is said where it is shown.
      refreshArrived(client, jobId, arrived).catch(() => undefined);
      refreshTouched(client, jobId, touched).catch(() => undefined);
      // The specs to choose from come with the page itself.
      if (touched.some((own) => 'isShared' in own)) router.refresh();
    };
    source.onopen = () => {
      clearTimeout(losing);
      losing = undefined;
      tasks.setLost(false);
    };
    source.addEventListener('missed', () => void client.invalidateQueries());
    source.onerror = () => {
      losing ??= setTimeout(() => tasks.setLost(true), LOST_AFTER_MS);
    };
    source.onmessage = ({ data }) => {
      const event = JSON.parse(data) as NumberedEvent;
      tasks.hear(event);
      if (event.touched.length === 0) return;
      const hasBegun = event.kind !== 'edit' && event.state === 'running';
      (hasBegun ? begun : ended).push(...event.touched);
      gathering ??= setTimeout(refresh, GATHER_MS);
    };
    return () => {
      source.close();
      clearTimeout(gathering);
      clearTimeout(losing);
    };
  }, [client, jobId, tasks, router]);
  return <Tasks value={tasks}>{children}</Tasks>;
}

/**
 * Fetches again what has changed since a page was made: its data may come after what was heard meanwhile, or be kept by the
 * browser for long.
 */
export function CatchUp({ asOf }: { asOf: number }) {
  const tasks = useTasks();
  const client = useQueryClient();
  const jobId = useJobId();
  useEffect(() => {
    const touched = tasks.events.touchedAfter(asOf);
    if (touched === null) void client.invalidateQueries();
    else if (touched.length > 0) {
      refreshArrived(client, jobId, touched).catch(() => undefined);
      refreshTouched(client, jobId, touched).catch(() => undefined);
    }
  }, [client, jobId, tasks, asOf]);
  return null;
}

function useTasks(): LiveTasks {
  const tasks = useContext(Tasks);
  if (!tasks) throw new Error('useLiveTask needs a LiveTasksProvider');
  return tasks;
}

function isOver(state: TaskView['state']): boolean {
  return state === 'done' || state === 'failed' || state === 'cancelled';
}

/** A task as it stands now: what the page was made with, or what has been heard since. */
export function useLiveTask(task: TaskView | null): (TaskView & { secondsLeft: number | null }) | null {
  const tasks = useTasks();
  const taskId = task?.taskId;
  const heard = useSyncExternalStore(
    (listener) => (taskId === undefined ? () => undefined : tasks.subscribe(taskId, listener)),
    () => tasks.heardOf(taskId),
    () => undefined,
  );
  const client = useQueryClient();
  const jobId = useJobId();
  // What says that it goes on was fetched before it ended, and came after that was heard.
  const isBehind = heard !== undefined && isOver(heard.state) && task !== null && !isOver(task.state);
  useEffect(() => {
    if (isBehind) refreshTouched(client, jobId, heard.touched).catch(() => undefined);
  }, [client, jobId, isBehind, heard]);
  if (!task) return null;
  return heard && !isOver(task.state) ? { ...task, ...heard } : { ...task, secondsLeft: null };
}

/** Whether the server has not been reached for a while. */
export function useIsServerLost(): boolean {
  const tasks = useTasks();
  return useSyncExternalStore(
    (listener) => tasks.subscribe(CONNECTION, listener),
    () => tasks.isLost,
    () => false,
  );
}
