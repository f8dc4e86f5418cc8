'use client';

import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { useSaveStatus } from '@/features/common/save-status';
import { useAct } from '@/features/common/use-act';
import type { JobView } from '@/server/jobs/jobs';
import { Button } from '@/ui/button';
import { setRemoved } from './actions';
import { removedListMessages as messages } from './messages';

/** What was taken out of the job, to be put back as it was. */
export function RemovedList({ removed }: { removed: JobView['removed'] }) {
  const { track } = useSaveStatus();
  const { act, error } = useAct(useChanged(), track);
  if (removed.length === 0) return null;
  return (
    <>
      <ErrorNotice error={error} />
      <ul aria-label={messages.heading} className="flex flex-wrap gap-x-6 gap-y-1 px-1 text-sm text-mute">
        {removed.map(({ id, title, fileName }) => (
          <li key={id} className="flex items-center gap-1" title={fileName}>
            {messages.removed(title)}
            <Button kind="quiet" onClick={() => void act(() => setRemoved(id, false))}>
              {messages.restore}
            </Button>
          </li>
        ))}
      </ul>
    </>
  );
}
