'use client';

import { useState } from 'react';
import type { GroupKind } from '@/core/lineup/name-groups';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { useJobId } from '@/features/common/job';
import { useSaveStatus } from '@/features/common/save-status';
import { useAct } from '@/features/common/use-act';
import type { GroupProposal } from '@/server/jobs/take-in-list';
import { Button } from '@/ui/button';
import { acceptGroup } from './actions';
import { proposedGroupsMessages as messages } from './messages';
import { useUploads } from './uploads';

const KIND_WORDS: Record<GroupKind, string> = {
  stems: messages.stemsOfOneMix,
  chapters: messages.partsOfOneSeries,
  versions: messages.versionsOfOneProgramme,
};

/** Groups that the names of programmes suggest; nothing is grouped that nobody chose. */
export function ProposedGroups({ proposed }: { proposed: readonly GroupProposal[] }) {
  const jobId = useJobId();
  const { track } = useSaveStatus();
  const { act, error } = useAct(useChanged(), track);
  const [declined, setDeclined] = useState<readonly string[]>([]);
  const { uploads } = useUploads();
  // What is still arriving may belong to them.
  const isArriving = uploads.some(({ state }) => state === 'waits' || state === 'sending');
  const offered = proposed.filter((group) => !declined.includes(keyOf(group)));
  if (isArriving || offered.length === 0) return null;
  return (
    <>
      <ErrorNotice error={error} />
      <ul aria-label={messages.heading} className="flex flex-wrap gap-3">
        {offered.map((group) => (
          <li
            key={keyOf(group)}
            className="flex items-center gap-3 rounded-card border border-dashed border-stock-2 bg-stock-1 px-4 py-1.5 text-sm"
          >
            <span>
              <span className="font-bold">{group.name}</span>: {group.programmes} {KIND_WORDS[group.kind]}?
            </span>
            <Button onClick={() => void act(() => acceptGroup(jobId, group.kind, group.name))}>{messages.group}</Button>
            <Button kind="quiet" onClick={() => setDeclined((keys) => [...keys, keyOf(group)])}>
              {messages.no}
            </Button>
          </li>
        ))}
      </ul>
    </>
  );
}

function keyOf({ kind, name }: GroupProposal): string {
  return `${kind} ${name}`;
}
