'use client';

import { useQuery } from '@tanstack/react-query';
import { TaskState } from '@/features/common/task-state';
import type { Act } from '@/features/common/use-act';
import { Button } from '@/ui/button';
import { copyOut } from './actions';
import { copyOutMessages as messages } from './messages';
import { copyOutQuery } from './queries';

/** Copies everything that can be handed over into the output folder of this machine, where it has one. */
export function CopyOut({ jobId, isBusy, act }: { jobId: string; isBusy: boolean; act: Act }) {
  const { data: view } = useQuery(copyOutQuery(jobId));
  if (!view) return null;
  const { task, path } = view;
  if (task && task.state !== 'done') return <TaskState task={task} verb={messages.copying} />;
  return (
    <Button disabled={isBusy} title={messages.hint(path)} onClick={() => void act(() => copyOut(jobId))}>
      {task ? messages.copyAgain : messages.copy}
    </Button>
  );
}
