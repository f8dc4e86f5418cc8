'use client';

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { recordOf } from '@/features/common/data/fetch-json';
import { takenInQuery, WHOLE_LISTING } from '@/features/common/data/queries';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { useSpec } from '@/features/common/specs';
import { useAct } from '@/features/common/use-act';
import { useJobSpec } from '@/features/common/use-job-spec';
import { Card } from '@/ui/card';
import { setAllRemoved } from './actions';
import { AddFilesButton } from './drop-zone';
import { takeInMessages as messages } from './messages';
import { ProposedGroups } from './proposed-groups';
import { RemovedList } from './removed-list';
import { ReplaceProgramme } from './replace-programme';
import { type Replaced, ReplacedNotice } from './replaced-notice';
import { SelectionBar } from './selection-bar';
import { TakeInTable } from './take-in-table';
import { useLead } from './use-lead';
import { useSelection } from './use-selection';

/** The stage: everything that has come in, and what is worth knowing of it. */
export function TakeIn({ jobId, specId: firstSpecId }: { jobId: string; specId: string }) {
  const chosen = useJobSpec(jobId, firstSpecId);
  const spec = useSpec(chosen.specId);
  const [listing, setListing] = useState(WHOLE_LISTING);
  // What is typed is shown at once, and found as soon as there is time.
  const asked = useDeferredValue(listing);
  const { data: taken, error } = useQuery({
    ...takenInQuery(jobId, spec.id, asked, 0),
    placeholderData: keepPreviousData,
  });
  useLead(jobId, taken);
  const selection = useSelection(jobId, spec.id, asked);
  const { act, error: actError, clearError } = useAct(useChanged());
  const removeSelected = () => {
    const ids = [...selection.ids];
    if (ids.length > 0) void act(() => setAllRemoved(ids, true), selection.clear);
  };
  const [replacing, setReplacing] = useState<{ id: string; title: string }>();
  const [replaced, setReplaced] = useState<Replaced>();
  return (
    <>
      <ErrorNotice error={error ? recordOf(error) : undefined} />
      <ErrorNotice error={actError} onClose={clearError} />
      <ErrorNotice error={chosen.error} onClose={chosen.clearError} />
      <ErrorNotice error={selection.error} onClose={selection.clearError} />
      {replaced ? <ReplacedNotice replaced={replaced} act={act} onClose={() => setReplaced(undefined)} /> : null}
      {replacing ? (
        <ReplaceProgramme
          jobId={jobId}
          programme={replacing}
          act={act}
          onReplaced={setReplaced}
          onClose={() => setReplacing(undefined)}
        />
      ) : null}
      <ProposedGroups proposed={taken?.proposed ?? []} />
      <SelectionBar jobId={jobId} spec={spec} order={listing.order} selection={selection} onRemove={removeSelected} />
      {taken && taken.all > 0 ? (
        <TakeInTable
          jobId={jobId}
          spec={spec}
          onSpec={chosen.choose}
          taken={taken}
          asked={asked}
          listing={listing}
          onListing={setListing}
          selection={selection}
          onReplace={setReplacing}
          onRemove={removeSelected}
        />
      ) : taken ? (
        <Card className="grid min-h-80 place-items-center border-dashed text-center">
          <div className="flex flex-col items-center gap-3">
            <p className="text-lg font-bold">{messages.dropHere}</p>
            <p className="max-w-md text-sm text-mute">{messages.whatCanBeTakenIn}</p>
            <AddFilesButton kind="primary">{messages.chooseFiles}</AddFilesButton>
          </div>
        </Card>
      ) : null}
      <RemovedList removed={taken?.removed ?? []} />
    </>
  );
}
