'use client';

import { useRouter } from 'next/navigation';
import type { ReactNode } from 'react';
import { specById } from '@/core/spec/catalogue';
import { cancelTask, retryTask } from '@/features/common/task-actions';
import { TaskState } from '@/features/common/task-state';
import type { ProgrammeView } from '@/server/jobs/jobs';
import { Card } from '@/ui/card';
import { Desk } from './desk';
import { ProgrammeList } from './programme-list';

/** The stage: programmes at the left, the desk of the current one beside them. Both choices are in the address. */
export function MeasureAndSet({
  jobId,
  programmes,
  current,
  specId,
  addFiles,
}: {
  jobId: string;
  programmes: readonly ProgrammeView[];
  current: ProgrammeView;
  specId: string;
  addFiles: ReactNode;
}) {
  const router = useRouter();
  const href = (programmeId: string, spec: string) =>
    `/jobs/${jobId}/measure-and-set?programme=${programmeId}&spec=${spec}`;
  return (
    <div className="flex flex-col lg:h-full lg:min-h-0 lg:flex-row">
      <ProgrammeList
        programmes={programmes}
        currentId={current.id}
        spec={specById(specId)}
        hrefOf={(programmeId) => href(programmeId, specId)}
      >
        {addFiles}
      </ProgrammeList>
      <div className="min-w-0 grow px-4 py-3 lg:overflow-y-auto">
        {current.measured ? (
          <Desk
            key={current.id}
            programme={current}
            measured={current.measured}
            specId={specId}
            onSpecChange={(spec) => router.replace(href(current.id, spec), { scroll: false })}
          />
        ) : (
          <Card title={current.title} remark={current.fileName} className="max-w-2xl">
            <p className="my-2 text-sm text-mute">
              The readings come as soon as the whole programme has been read. You can leave this page meanwhile.
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
