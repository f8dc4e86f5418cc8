'use client';

import { useEffect, useRef, useState } from 'react';
import type { TaskView } from '@/server/tasks/view';
import { Button } from '@/ui/button';
import { ProgressBar } from '@/ui/progress-bar';
import { useLiveTask } from './data/live-tasks';
import { useChanged } from './data/use-changed';
import { ErrorNotice } from './error-notice';
import { taskStateMessages as messages } from './messages';
import { cancelTask, retryTask } from './task-actions';
import { type Seen, secondsLeft } from './time-left';
import { useAct } from './use-act';

/** A task that is not done: its progress and Cancel, or why it ended and Try again. */
export function TaskState({
  task,
  verb,
}: {
  task: TaskView | null;
  /** "measuring", "writing". */
  verb: string;
}) {
  const live = useLiveTask(task);
  const { act, isBusy, error } = useAct(useChanged());
  const left = useSecondsLeft(live);
  if (error) return <ErrorNotice error={error} />;
  if (live?.state === 'queued' || live?.state === 'running' || live?.state === 'done') {
    const isWaiting = live.state === 'queued';
    const timeLeft = left === null ? '' : ` · ${messages.timeLeft(left)}`;
    const speed = live.timesRealTime === null ? '' : ` · ${Math.round(live.timesRealTime)}×`;
    return (
      <div className="flex items-center gap-2">
        <div className="min-w-28 grow">
          <ProgressBar label={verb} fraction={live.fraction} />
          <p className="mt-1 font-mono text-xs text-mute" title={messages.speedHint}>
            {isWaiting ? messages.waits : `${verb} ${Math.round(live.fraction * 100)} %${speed}${timeLeft}`}
          </p>
        </div>
        <Button disabled={isBusy} onClick={() => void act(() => cancelTask(live.taskId))}>
          {messages.cancel}
        </Button>
      </div>
    );
  }
  return (
    <div className="flex items-center gap-2">
      <p className="grow text-sm text-mute">
        {live?.state === 'failed' && live.error ? (
          <span role="alert" className="text-breach">
            ▲ {live.error.happened} {live.error.todo}
          </span>
        ) : (
          messages.cancelled
        )}
      </p>
      {live ? (
        <Button disabled={isBusy} onClick={() => void act(() => retryTask(live.taskId))}>
          {messages.tryAgain}
        </Button>
      ) : null}
    </div>
  );
}

/** From how far a task has come since this page first saw it run. */
function useSecondsLeft(task: TaskView | null): number | null {
  const { taskId, fraction = 0 } = task ?? {};
  const isRunning = task?.state === 'running';
  const first = useRef<(Seen & { taskId: string | undefined }) | undefined>(undefined);
  const [left, setLeft] = useState<number | null>(null);
  useEffect(() => {
    const now = { taskId, fraction, atMs: Date.now() };
    const known = first.current;
    const from = known?.taskId === taskId && known && known.fraction <= fraction ? known : now;
    first.current = from;
    setLeft(isRunning ? secondsLeft(from, now) : null);
  }, [taskId, fraction, isRunning]);
  return left;
}
