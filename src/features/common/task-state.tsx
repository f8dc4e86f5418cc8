'use client';

import type { TaskView } from '@/server/tasks/view';
import { Button } from '@/ui/button';
import { ProgressBar } from '@/ui/progress-bar';
import { useLiveTask } from './data/live-tasks';
import { useChanged } from './data/use-changed';
import { ErrorNotice } from './error-notice';
import { taskStateMessages as messages } from './messages';
import { cancelTask, retryTask } from './task-actions';
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
  if (error) return <ErrorNotice error={error} />;
  if (live?.state === 'queued' || live?.state === 'running' || live?.state === 'done') {
    const isWaiting = live.state === 'queued';
    const timeLeft = live.secondsLeft === null ? '' : ` · ${messages.timeLeft(live.secondsLeft)}`;
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
