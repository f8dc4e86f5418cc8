'use client';

import { useRouter } from 'next/navigation';
import { createContext, type ReactNode, useContext, useEffect, useState } from 'react';
import type { TaskEvent } from '@/server/tasks/runner';
import type { TaskView } from '@/server/tasks/view';

const TaskEvents = createContext<ReadonlyMap<string, TaskEvent>>(new Map());

/** Listens to the server's tasks; when one ends, the page's data are fetched again. */
export function TaskEventsProvider({ children }: { children: ReactNode }) {
  const router = useRouter();
  const [events, setEvents] = useState<ReadonlyMap<string, TaskEvent>>(new Map());
  useEffect(() => {
    const source = new EventSource('/api/events');
    let wasOpen = false;
    source.onopen = () => {
      // Whatever ended while the line was down was not heard of.
      if (wasOpen) router.refresh();
      wasOpen = true;
    };
    source.onmessage = ({ data }) => {
      const event = JSON.parse(data) as TaskEvent;
      setEvents((known) => new Map(known).set(event.taskId, event));
      if (event.state !== 'running') router.refresh();
    };
    return () => source.close();
  }, [router]);
  return <TaskEvents value={events}>{children}</TaskEvents>;
}

/** A task as it stands now: what the page was made with, or what has been heard since. */
export function useLiveTask(task: TaskView | null): TaskView | null {
  const events = useContext(TaskEvents);
  if (!task) return null;
  const heard = events.get(task.taskId);
  return heard && task.state !== 'done' && task.state !== 'failed' && task.state !== 'cancelled'
    ? { ...task, ...heard }
    : task;
}
