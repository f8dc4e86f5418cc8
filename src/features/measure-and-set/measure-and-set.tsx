'use client';

import { useRouter, useSearchParams } from 'next/navigation';
import type { ReactNode } from 'react';
import { useSpec } from '@/features/common/specs';
import { cancelTask, retryTask } from '@/features/common/task-actions';
import { TaskState } from '@/features/common/task-state';
import type { ProgrammeView } from '@/server/jobs/jobs';
import { Card } from '@/ui/card';
import { Desk, type DeskAddress } from './desk';
import { ProgrammeList } from './programme-list';

/** The stage: programmes at the left, the desk of the current one beside them. Both choices are in the address. */
export function MeasureAndSet({
  jobId,
  programmes,
  current,
  address,
  addFiles,
  notice,
}: {
  jobId: string;
  programmes: readonly ProgrammeView[];
  current: ProgrammeView;
  address: DeskAddress;
  addFiles: ReactNode;
  /** What the address asks for that is not there. */
  notice: ReactNode;
}) {
  const router = useRouter();
  const { specId } = address;
  const spec = useSpec(specId);
  const change = (changes: Record<string, string | null>) => {
    // What is looked at may have changed in the address without the page.
    const query = new URLSearchParams(window.location.search);
    for (const [name, value] of Object.entries({ programme: current.id, spec: specId, ...changes })) {
      if (value === null) query.delete(name);
      else query.set(name, value);
    }
    router.replace(`/jobs/${jobId}/measure-and-set?${query}`, { scroll: false });
  };
  const stacked = useSearchParams().get('also');
  const also = stacked ? `&also=${stacked}` : '';
  const href = (programmeId: string, spec: string) =>
    `/jobs/${jobId}/measure-and-set?programme=${programmeId}&spec=${spec}${also}`;
  return (
    <div className="flex flex-col lg:h-full lg:min-h-0 lg:flex-row">
      <ProgrammeList
        programmes={programmes}
        currentId={current.id}
        spec={spec}
        hrefOf={(programmeId) => href(programmeId, specId)}
      >
        {addFiles}
      </ProgrammeList>
      <div className="min-w-0 grow px-4 py-2 lg:overflow-y-auto">
        {notice}
        {current.measured ? (
          <Desk
            key={current.id}
            jobId={jobId}
            programme={current}
            programmes={programmes}
            measured={current.measured}
            address={address}
            onAddress={change}
          />
        ) : (
          <Card title={current.title} remark={current.fileName} className="max-w-2xl">
            <h1 className="sr-only">{current.title}</h1>
            <p className="my-2 text-sm text-mute">
              {isEnded(current.task)
                ? 'It has not been measured, so that nothing can be set yet. Its file is whole, and stays as it came.'
                : 'The readings come as soon as the whole programme has been read. You can leave this page meanwhile.'}
            </p>
            <TaskState
              task={current.task}
              verb="measuring"
              onCancel={cancelTask}
              onRetry={() => (current.task ? void retryTask(current.task.taskId) : undefined)}
            />
          </Card>
        )}
      </div>
    </div>
  );
}

function isEnded(task: ProgrammeView['task']): boolean {
  return task?.state === 'cancelled' || task?.state === 'failed';
}
