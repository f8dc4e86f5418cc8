'use client';

import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { MOST_REDUCTION_DB } from '@/core/treatment/limited-solver';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { askMany } from '@/features/common/many/actions';
import { batchesQuery } from '@/features/common/many/queries';
import { useSaveStatus } from '@/features/common/save-status';
import { TaskState } from '@/features/common/task-state';
import { useAct } from '@/features/common/use-act';
import { Button } from '@/ui/button';
import { useDesk, useDeskCommands } from './desk-context';
import { reviewCopyMessages as messages } from './messages';

/** One action: a small file that meets the target, written, and downloaded as soon as it is there. */
export function useReviewCopy() {
  const { jobId, programme, spec, treatment } = useDesk();
  const { track } = useSaveStatus();
  const { act, isBusy, error, clearError } = useAct(useChanged(), track);
  const [batchId, setBatchId] = useState<string>();
  // A limiter is nobody's choice but the one that is set already.
  const maxReductionDb = treatment.limit ? MOST_REDUCTION_DB : 0;
  const wish = { kind: 'review', specId: spec.id, maxReductionDb } as const;
  const write = () => void act(() => askMany(jobId, [programme.id], wish), setBatchId);
  useDeskCommands({ review: write });
  return { jobId, batchId, close: () => setBatchId(undefined), write, isBusy, error, clearError };
}

/** What has come of it: how far it is, then the file, or why there is none. */
export function ReviewCopy({
  review: { jobId, batchId, close, error, clearError },
}: {
  review: ReturnType<typeof useReviewCopy>;
}) {
  // Nobody has asked for one: then what is asked of many is nothing to this page.
  const { data: batches = [] } = useQuery({ ...batchesQuery(jobId), enabled: batchId !== undefined });
  const batch = batches.find(({ id }) => id === batchId);
  const [item] = batch?.items ?? [];
  const file = item?.file ?? null;
  const link = useRef<HTMLAnchorElement>(null);
  const downloaded = useRef<string>(undefined);
  useEffect(() => {
    if (!file || downloaded.current === batchId) return;
    downloaded.current = batchId;
    link.current?.click();
  }, [file, batchId]);
  if (error) return <ErrorNotice error={error} onClose={clearError} />;
  if (!batch || !item) return null;
  return (
    <section
      aria-label={messages.heading}
      className="flex flex-wrap items-center gap-3 rounded-card border border-hair bg-sheet px-4 py-1.5 text-sm"
    >
      {file ? (
        <>
          <a ref={link} href={`/api/batches/${batch.id}/file`} download className="font-semibold underline">
            {messages.download(file.fileName)}
          </a>
          <span className="text-mute">{item.text}</span>
        </>
      ) : item.state === 'failed' ? (
        <span className="text-breach">▲ {item.text}</span>
      ) : (
        <span className="min-w-64">
          <TaskState task={batch.task} verb="writing" />
        </span>
      )}
      <span className="ml-auto">
        <Button kind="inline" onClick={close}>
          {messages.close}
        </Button>
      </span>
    </section>
  );
}
