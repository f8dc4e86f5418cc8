'use client';

import { useQuery } from '@tanstack/react-query';
import { formatDay } from '@/core/units/format';
import type { Act } from '@/features/common/use-act';
import { Button } from '@/ui/button';
import { bringJobBack } from './actions';
import { jobListMessages as messages } from './messages';
import { deletedJobsQuery } from './queries';

/** Jobs that were deleted in the last week, below all others; nothing where there are none. */
export function DeletedJobs({ act }: { act: Act }) {
  const { data: jobs = [] } = useQuery(deletedJobsQuery);
  if (jobs.length === 0) return null;
  return (
    <details className="shrink-0 text-sm">
      <summary className="cursor-pointer text-mute">{messages.deleted(jobs.length)}</summary>
      <ul aria-label={messages.deletedJobs} className="mt-1">
        {jobs.map(({ id, name, goneAtMs }) => (
          <li key={id} className="flex items-center gap-3 border-b border-hair px-4 py-1.5 last:border-0">
            <span className="min-w-0 grow truncate font-semibold">{name}</span>
            <span className="text-xs text-mute">{messages.goneOn(formatDay(goneAtMs))}</span>
            <Button
              kind="quiet"
              onClick={() => void act(() => bringJobBack(id))}
              aria-label={`${messages.restore} ${name}`}
            >
              {messages.restore}
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}
