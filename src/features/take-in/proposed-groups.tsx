'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { type GroupKind, type ProposedGroup, proposeGroups } from '@/core/lineup/name-groups';
import { ErrorNotice } from '@/features/common/error-notice';
import { useSaveStatus } from '@/features/common/save-status';
import type { ProgrammeView } from '@/server/jobs/jobs';
import { Button } from '@/ui/button';
import { setGroup } from './actions';
import { useUploads } from './uploads';

const KIND_WORDS: Record<GroupKind, string> = {
  stems: 'stems of one mix',
  chapters: 'parts of one series',
  versions: 'versions of one programme',
};

/** Groups that the names of programmes suggest; nothing is grouped that nobody chose. */
export function ProposedGroups({ programmes }: { programmes: readonly ProgrammeView[] }) {
  const router = useRouter();
  const { track } = useSaveStatus();
  const [declined, setDeclined] = useState<readonly string[]>([]);
  const [error, setError] = useState<ErrorRecord>();
  const { uploads } = useUploads();
  // What is still arriving may belong to them.
  const isArriving = uploads.some(({ state }) => state === 'waits' || state === 'sending');
  const loose = programmes.filter(({ groupName }) => groupName === null);
  const proposed = proposeGroups(loose.map(({ title }) => title)).filter((group) => !declined.includes(keyOf(group)));
  if (isArriving || proposed.length === 0) return null;
  const accept = async ({ name, members }: ProposedGroup) => {
    const ids = members.flatMap((index) => loose[index]?.id ?? []);
    const result = await track(setGroup(ids, name));
    setError(result.ok ? undefined : result.error);
    router.refresh();
  };
  return (
    <>
      <ErrorNotice error={error} />
      <ul aria-label="Groups that the names suggest" className="flex flex-wrap gap-3">
        {proposed.map((group) => (
          <li
            key={keyOf(group)}
            className="flex items-center gap-3 rounded-card border border-dashed border-stock-2 bg-stock-1 px-4 py-1.5 text-sm"
          >
            <span>
              <span className="font-bold">{group.name}</span>: {group.members.length} {KIND_WORDS[group.kind]}?
            </span>
            <Button onClick={() => void accept(group)}>Group</Button>
            <Button kind="quiet" onClick={() => setDeclined((keys) => [...keys, keyOf(group)])}>
              No
            </Button>
          </li>
        ))}
      </ul>
    </>
  );
}

function keyOf({ kind, name }: ProposedGroup): string {
  return `${kind} ${name}`;
}
