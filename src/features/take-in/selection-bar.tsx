'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Spec } from '@/core/spec/spec';
import { lineUpAddress } from '@/features/common/address';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { Many } from '@/features/common/many/many';
import { useAct } from '@/features/common/use-act';
import type { TakeInOrder } from '@/server/jobs/take-in-list';
import { Button } from '@/ui/button';
import { lineUpSelected } from './actions';
import { CopyStepsDialog } from './copy-steps-dialog';
import { copyStepsMessages, selectionMessages as messages, tagsDialogMessages } from './messages';
import { TagsDialog } from './tags-dialog';
import type { Selection } from './use-selection';

/** What can be done with all that is chosen. */
export function SelectionBar({
  jobId,
  spec,
  order,
  selection,
  onRemove,
}: {
  jobId: string;
  spec: Spec;
  order: TakeInOrder;
  selection: Selection;
  onRemove: () => void;
}) {
  const [isTagging, setIsTagging] = useState(false);
  const [isCopying, setIsCopying] = useState(false);
  const { act, isBusy, error, clearError } = useAct(useChanged());
  const router = useRouter();
  const ids = [...selection.ids];
  if (ids.length === 0) return null;
  return (
    <section aria-label={messages.selected(ids.length)} className="sticky top-0 z-20">
      <ErrorNotice error={error} onClose={clearError} />
      {isTagging ? <TagsDialog jobId={jobId} programmeIds={ids} act={act} onClose={() => setIsTagging(false)} /> : null}
      {isCopying ? (
        <CopyStepsDialog jobId={jobId} programmeIds={ids} act={act} onClose={() => setIsCopying(false)} />
      ) : null}
      <Many
        jobId={jobId}
        programmeIds={ids}
        specId={spec.id}
        isOfSpeech={spec.needsRoomTone === true}
        isBusy={isBusy}
        act={act}
      >
        <h2 className="text-sm font-bold">{messages.selected(ids.length)}</h2>
        <Button kind="inline" onClick={() => void selection.all()}>
          {messages.selectAll}
        </Button>
        <Button kind="inline" onClick={selection.clear}>
          {messages.clear}
        </Button>
        <Button kind="inline" onClick={() => setIsTagging(true)}>
          {tagsDialogMessages.open}
        </Button>
        <Button kind="inline" title={copyStepsMessages.openHint} onClick={() => setIsCopying(true)}>
          {copyStepsMessages.open}
        </Button>
        <Button
          kind="inline"
          title={messages.lineUpHint}
          disabled={isBusy}
          onClick={() =>
            void act(
              () => lineUpSelected(jobId, spec.id, order, ids),
              (lineUpId) => router.push(lineUpAddress(jobId, lineUpId)),
            )
          }
        >
          {messages.lineUp}
        </Button>
        <Button kind="inline" title={messages.removeHint} disabled={isBusy} onClick={onRemove}>
          {messages.remove}
        </Button>
      </Many>
    </section>
  );
}
