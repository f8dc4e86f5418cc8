'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { type ReactNode, useRef } from 'react';
import type { Spec } from '@/core/spec/spec';
import { useLiveTask } from '@/features/common/data/live-tasks';
import { PART_ROWS, programmesQuery } from '@/features/common/data/queries';
import { useParts } from '@/features/common/data/use-parts';
import { MiniRule } from '@/features/common/mini-rule';
import { useSpec } from '@/features/common/specs';
import { StateMark } from '@/features/common/state-mark';
import type { Part, ProgrammeItem } from '@/server/jobs/programme-list';
import { classNames } from '@/ui/class-names';
import { WorkLink } from '@/ui/work-link';
import { programmeListMessages as messages } from './messages';

const ENTRY_HEIGHT = 92;
const GAP = 4;
/** Before anything is measured. */
const FIRST_VIEW = { width: 240, height: 900 };

/** The job's programmes, each with its rule as its saved treatment leaves it. Of many, those are drawn that are looked at. */
export function ProgrammeList({
  jobId,
  currentId,
  position,
  firstTotal,
  specId,
  hrefOf,
  children,
}: {
  jobId: string;
  currentId: string;
  /** Where the current one stands. */
  position: number;
  /** How many there were when the page was made. */
  firstTotal: number;
  specId: string;
  hrefOf: (programmeId: string) => string;
  children: ReactNode;
}) {
  const list = useRef<HTMLUListElement>(null);
  const spec = useSpec(specId);
  const isLong = firstTotal > PART_ROWS;
  const virtualizer = useVirtualizer({
    count: firstTotal,
    getScrollElement: () => list.current,
    estimateSize: () => ENTRY_HEIGHT,
    gap: GAP,
    initialRect: FIRST_VIEW,
    initialOffset: isLong ? Math.max(0, (position - 2) * (ENTRY_HEIGHT + GAP)) : 0,
    overscan: 4,
  });
  const drawn = virtualizer.getVirtualItems();
  const shown = isLong
    ? { first: drawn[0]?.index ?? position, last: drawn.at(-1)?.index ?? position }
    : { first: 0, last: 0 };
  const { total, row } = useParts<ProgrammeItem, Part<ProgrammeItem>>(
    (part) => programmesQuery(jobId, specId, part),
    shown,
  );
  const entry = (index: number) => {
    const item = row(index);
    return item ? <Entry item={item} spec={spec} href={hrefOf(item.id)} isCurrent={item.id === currentId} /> : null;
  };
  return (
    <nav
      aria-label={messages.programmes}
      className="flex shrink-0 flex-col border-b border-hair p-3 lg:w-60 lg:border-r lg:border-b-0"
    >
      <p className="mb-2 flex justify-between px-1 text-xs text-mute">
        <span>{messages.programmes}</span>
        <span>{total || firstTotal}</span>
      </p>
      {isLong ? (
        <ul ref={list} className="relative max-h-64 min-h-0 grow overflow-auto lg:max-h-none">
          <li aria-hidden style={{ height: virtualizer.getTotalSize() }} />
          {drawn.map(({ index, start }) => (
            <li key={index} className="absolute inset-x-0 top-0" style={{ transform: `translateY(${start}px)` }}>
              {entry(index)}
            </li>
          ))}
        </ul>
      ) : (
        <ul className="flex min-h-0 grow gap-1 overflow-auto *:min-w-52 lg:flex-col">
          {Array.from({ length: total }, (_, index) => (
            <li key={row(index)?.id ?? index}>{entry(index)}</li>
          ))}
        </ul>
      )}
      <div className="mt-3 hidden lg:block">{children}</div>
    </nav>
  );
}

function Entry({
  item: { title, about, treated, task },
  spec,
  href,
  isCurrent,
}: {
  item: ProgrammeItem;
  spec: Spec;
  href: string;
  isCurrent: boolean;
}) {
  const live = useLiveTask(task);
  return (
    <WorkLink
      href={href}
      aria-current={isCurrent ? 'true' : undefined}
      className={classNames(
        // The ring of focus lies within the list's edges, which cut off what stands out.
        'block rounded-card border px-3 py-2.5 focus-visible:-outline-offset-2!',
        isCurrent ? 'border-stock-2 bg-sheet' : 'border-transparent hover:bg-stock-1',
      )}
    >
      <span className="flex justify-between gap-2">
        <span className="truncate text-sm font-bold">{title}</span>
        <StateMark state={treated?.state ?? 'not-measured'} />
      </span>
      <span className="mb-1.5 block truncate text-xs text-mute">{about}</span>
      {treated ? (
        <MiniRule readings={treated.levels} spec={spec} />
      ) : (
        <span className="block font-mono text-xs text-mute">
          {live?.state === 'running'
            ? messages.measuring(Math.round(live.fraction * 100))
            : (live?.state ?? messages.notMeasured)}
        </span>
      )}
    </WorkLink>
  );
}
