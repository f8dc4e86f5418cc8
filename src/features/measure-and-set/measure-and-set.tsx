'use client';

import { useSuspenseQuery } from '@tanstack/react-query';
import { useQueryStates } from 'nuqs';
import { type ReactNode, useEffect } from 'react';
import { STEP_NAMES } from '@/core/treatment/treatment';
import { ADDRESS, stageAddress } from '@/features/common/address';
import { programmeQuery } from '@/features/common/data/queries';
import { ErrorNotice } from '@/features/common/error-notice';
import { TaskState } from '@/features/common/task-state';
import { useJobSpec } from '@/features/common/use-job-spec';
import type { ProgrammeView } from '@/server/jobs/programme-view';
import { Card } from '@/ui/card';
import { Desk } from './desk/desk';
import type { KeptDesk } from './desk/kept-desk';
import { measureAndSetMessages as messages } from './messages';
import { ProgrammeList } from './programme-list';

/** The stage: programmes at the left, the desk of the current one beside them. Both choices are in the address. */
export function MeasureAndSet({
  jobId,
  currentId,
  position,
  total,
  specId: firstSpecId,
  kept,
  addFiles,
  notice,
}: {
  jobId: string;
  currentId: string;
  /** Where the current one stands among the job's programmes, and how many there are. */
  position: number;
  total: number;
  /** That the page was made for. */
  specId: string;
  /** How the desk was last left. */
  kept: KeptDesk;
  addFiles: ReactNode;
  /** What the address asks for that is not there. */
  notice: ReactNode;
}) {
  const [address, setAddress] = useQueryStates(ADDRESS);
  const { data: current } = useSuspenseQuery(programmeQuery(currentId));
  const { specId, choose, error, clearError } = useJobSpec(jobId, firstSpecId);
  const also = address.also ?? [];
  // It is opened once: whoever closes it has done with it.
  useEffect(() => {
    if (address.step !== null) void setAddress({ step: null });
  }, [address.step, setAddress]);
  return (
    <div className="flex flex-col lg:h-full lg:min-h-0 lg:flex-row">
      <ProgrammeList
        jobId={jobId}
        currentId={current.id}
        position={position}
        firstTotal={total}
        specId={specId}
        hrefOf={(programme) =>
          stageAddress(jobId, 'measure-and-set', { programme, spec: specId, ...(also.length > 0 ? { also } : {}) })
        }
      >
        {addFiles}
      </ProgrammeList>
      <div className="min-w-0 grow px-4 py-2 lg:overflow-y-auto">
        {notice}
        <ErrorNotice error={error} onClose={clearError} />
        {current.measured ? (
          <Desk
            key={current.id}
            jobId={jobId}
            programme={current}
            measured={current.measured}
            specId={specId}
            otherSpecIds={also}
            kept={kept}
            firstStep={STEP_NAMES.find((name) => name === address.step)}
            onSpec={(spec) => choose(spec, current.id)}
            onOthers={(ids) => void setAddress({ also: ids.length > 0 ? [...ids] : null })}
          />
        ) : (
          <Card title={current.title} remark={current.fileName} className="max-w-2xl">
            <h1 className="sr-only">{current.title}</h1>
            <p className="my-2 text-sm text-mute">
              {isEnded(current.task) ? messages.notMeasured : messages.beingMeasured}
            </p>
            <TaskState task={current.task} verb="measuring" />
          </Card>
        )}
      </div>
    </div>
  );
}

function isEnded(task: ProgrammeView['task']): boolean {
  return task?.state === 'cancelled' || task?.state === 'failed';
}
