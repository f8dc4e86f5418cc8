'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef } from 'react';
import type { Spec } from '@/core/spec/spec';
import { formatTime } from '@/core/units/format';
import { takenInQuery } from '@/features/common/data/queries';
import { useParts } from '@/features/common/data/use-parts';
import type { GroupHead, TakeInListing, TakeInOrder, TakeInRow, TakenIn } from '@/server/jobs/take-in-list';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { FindBar } from './find-bar';
import { takeInTableMessages as messages, selectionMessages } from './messages';
import { ReadingsMenu } from './readings-menu';
import { TakeInTableRow } from './take-in-row';
import type { Selection } from './use-selection';

const ORDERS: readonly { value: TakeInOrder; label: string }[] = [
  { value: 'taken-in', label: messages.inOrderOfArrival },
  { value: 'furthest', label: messages.furthestFromTheSpecFirst },
  { value: 'findings', label: messages.mostFindingsFirst },
  { value: 'title', label: messages.byTitle },
  { value: 'longest', label: messages.longestFirst },
];
const COLUMNS = 7;
/** About as high as most rows are; each is measured once it is drawn. */
const ROW_HEIGHT = 92;
/** Before anything is measured: as much as most screens show. */
const FIRST_VIEW = { width: 1280, height: 1400 };

/** Every programme of the job as it came in. However many there are, those are drawn that are looked at. */
export function TakeInTable({
  jobId,
  spec,
  taken,
  asked,
  listing,
  onListing,
  selection,
}: {
  jobId: string;
  spec: Spec;
  /** The first part. */
  taken: TakenIn;
  /** What is listed. */
  asked: TakeInListing;
  /** What is to be listed: a moment ahead of that. */
  listing: TakeInListing;
  onListing: (listing: TakeInListing) => void;
  selection: Selection;
}) {
  const table = useRef<HTMLTableElement>(null);
  const entries = entriesOf(taken);
  const virtualizer = useVirtualizer({
    count: entries.length,
    getScrollElement: () => table.current?.closest('main') ?? null,
    estimateSize: () => ROW_HEIGHT,
    initialRect: FIRST_VIEW,
    overscan: 8,
    getItemKey: (index) => index,
  });
  const drawn = virtualizer.getVirtualItems();
  const indices = drawn.flatMap(({ index }) => {
    const entry = entries[index];
    return entry && 'row' in entry ? [entry.row] : [];
  });
  const { row } = useParts<TakeInRow, TakenIn>((part) => takenInQuery(jobId, spec.id, asked, part), {
    first: indices[0] ?? 0,
    last: indices.at(-1) ?? 0,
  });
  const groupNames = taken.groups.flatMap(({ name }) => name ?? []);
  const before = drawn[0]?.start ?? 0;
  const behind = virtualizer.getTotalSize() - (drawn.at(-1)?.end ?? 0);
  return (
    <Card flush className="overflow-x-auto">
      <FindBar listing={listing} onListing={onListing} listed={taken.total} all={taken.all} />
      <table ref={table} className="w-full min-w-5xl border-collapse text-left" aria-rowcount={taken.total}>
        <thead className="text-xs text-mute">
          <tr className="border-b border-hair">
            <th className="w-14 py-2 pl-4">
              <input
                type="checkbox"
                aria-label={selectionMessages.selectAll}
                title={selectionMessages.selectAll}
                checked={selection.isAll}
                onChange={(event) => (event.target.checked ? void selection.all() : selection.clear())}
              />
              <span className="sr-only">{messages.state}</span>
            </th>
            <th className="py-2 pr-4 font-normal">
              <span className="flex items-center gap-2">
                {messages.programmes}
                <Choice
                  label={messages.order}
                  value={listing.order}
                  options={ORDERS}
                  onChange={(value) => onListing({ ...listing, order: value as TakeInOrder })}
                  compact
                />
              </span>
            </th>
            <th className="py-2 font-normal">{messages.format}</th>
            <th className="py-2 pr-6 text-right font-normal">{messages.integrated}</th>
            <th className="py-2 pr-6 text-right font-normal">{messages.truePeak}</th>
            <th className="w-52 py-2 font-normal">{messages.against(spec.name)}</th>
            <th className="w-[30%] py-2 pr-4 pl-6 font-normal">
              <span className="flex items-center justify-between gap-2">
                {messages.missesAndFindings}
                <ReadingsMenu jobId={jobId} />
              </span>
            </th>
          </tr>
        </thead>
        <tbody>
          <Gap height={before} />
          {drawn.map(({ index }) => {
            const entry = entries[index];
            if (!entry) return null;
            if ('head' in entry) {
              return <Heading key={index} head={entry.head} index={index} measure={virtualizer.measureElement} />;
            }
            const programme = row(entry.row);
            return programme ? (
              <TakeInTableRow
                key={programme.id}
                jobId={jobId}
                programme={programme}
                spec={spec}
                groups={groupNames}
                index={index}
                measure={virtualizer.measureElement}
                isSelected={selection.ids.has(programme.id)}
                onSelect={(isRange) => void selection.toggle(programme.id, isRange)}
              />
            ) : (
              <tr key={index} style={{ height: ROW_HEIGHT }} className="border-b border-hair">
                <td colSpan={COLUMNS} className="px-4 text-xs text-mute">
                  …
                </td>
              </tr>
            );
          })}
          <Gap height={behind} />
        </tbody>
      </table>
    </Card>
  );
}

/** A row of the table: the name of a group, or the programme at an index. */
type Entry = { head: GroupHead & { name: string } } | { row: number };

function entriesOf({ groups, total }: TakenIn): Entry[] {
  const entries: Entry[] = [];
  let next = 0;
  for (const { name, ...head } of groups) {
    if (name !== null) entries.push({ head: { name, ...head } });
    for (const end = next + head.programmes; next < end; next++) entries.push({ row: next });
  }
  for (; next < total; next++) entries.push({ row: next });
  return entries;
}

/** In place of rows that are not drawn. */
function Gap({ height }: { height: number }) {
  if (height <= 0) return null;
  return (
    <tr aria-hidden>
      <td colSpan={COLUMNS} style={{ height }} />
    </tr>
  );
}

function Heading({
  head: { name, programmes, seconds },
  index,
  measure,
}: {
  head: GroupHead;
  index: number;
  measure: (row: HTMLTableRowElement | null) => void;
}) {
  return (
    <tr ref={measure} data-index={index} className="border-b border-hair bg-stock-1">
      <th colSpan={COLUMNS} scope="rowgroup" className="px-4 py-1.5 text-xs font-normal">
        <span className="font-bold">{name}</span>{' '}
        <span className="text-mute">{messages.group(programmes, formatTime(seconds))}</span>
      </th>
    </tr>
  );
}
