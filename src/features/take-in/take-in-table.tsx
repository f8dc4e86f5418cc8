'use client';

import { Fragment, useMemo, useRef } from 'react';
import { READING_NAMES } from '@/core/loudness/reading-names';
import { lowerName } from '@/core/spec/assessment';
import type { Spec } from '@/core/spec/spec';
import { formatTime } from '@/core/units/format';
import { takenInQuery } from '@/features/common/data/queries';
import { useParts } from '@/features/common/data/use-parts';
import { Gap, useDrawnRows } from '@/features/common/drawn-rows';
import type { GroupHead, TakeInListing, TakeInOrder, TakeInRow, TakenIn } from '@/server/jobs/take-in-list';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { ColumnsMenu } from './columns-menu';
import { FindBar } from './find-bar';
import { takeInTableMessages as messages, selectionMessages } from './messages';
import { ReadingsMenu } from './readings-menu';
import { pressInTable } from './row-keys';
import { TakeInTableRow } from './take-in-row';
import { useColumns } from './use-columns';
import type { Selection } from './use-selection';

const ORDERS: readonly { value: TakeInOrder; label: string }[] = [
  { value: 'taken-in', label: messages.inOrderOfArrival },
  { value: 'furthest', label: messages.furthestFromTheSpecFirst },
  { value: 'findings', label: messages.mostFindingsFirst },
  { value: 'title', label: messages.byTitle },
  { value: 'file', label: messages.byFile },
  { value: 'longest', label: messages.longestFirst },
];
/** Beside the readings. */
const COLUMNS = 5;
/** About as high as most rows are; each is measured once it is drawn. */
const ROW_HEIGHT = 92;
const COMPACT_HEIGHT = 37;

/** Every programme of the job as it came in. However many there are, those are drawn that are looked at. */
export function TakeInTable({
  jobId,
  spec,
  onSpec,
  taken,
  asked,
  listing,
  onListing,
  selection,
  onReplace,
  onRemove,
}: {
  jobId: string;
  spec: Spec;
  onSpec: (specId: string) => void;
  /** The first part. */
  taken: TakenIn;
  /** What is listed. */
  asked: TakeInListing;
  /** What is to be listed: a moment ahead of that. */
  listing: TakeInListing;
  onListing: (listing: TakeInListing) => void;
  selection: Selection;
  onReplace: (programme: TakeInRow) => void;
  /** Removes what is selected. */
  onRemove: () => void;
}) {
  const table = useRef<HTMLTableElement>(null);
  const { layout, change } = useColumns();
  const { readings, isCompact } = layout;
  const rowHeight = isCompact ? COMPACT_HEIGHT : ROW_HEIGHT;
  const columns = COLUMNS + readings.length;
  const entries = entriesOf(taken);
  const drawn = useDrawnRows(table, { count: entries.length, height: rowHeight });
  const indices = drawn.rows.flatMap(({ index }) => {
    const entry = entries[index];
    return entry && 'row' in entry ? [entry.row] : [];
  });
  const { row } = useParts<TakeInRow, TakenIn>((part) => takenInQuery(jobId, spec.id, asked, part), {
    first: indices[0] ?? 0,
    last: indices.at(-1) ?? 0,
  });
  const groupNames = useMemo(() => taken.groups.flatMap(({ name }) => name ?? []), [taken.groups]);
  const idAt = (place: number) => {
    const entry = entries[place];
    return entry && 'row' in entry ? row(entry.row)?.id : undefined;
  };
  const orders = [
    ...ORDERS,
    ...readings.map((key) => ({ value: key, label: messages.highestFirst(lowerName(READING_NAMES[key].name)) })),
  ];
  return (
    <Card flush className="overflow-x-auto">
      <FindBar
        listing={listing}
        onListing={onListing}
        listed={taken.total}
        all={taken.all}
        specId={spec.id}
        onSpec={onSpec}
      />
      <table
        ref={table}
        className="w-full min-w-5xl border-collapse text-left"
        aria-rowcount={taken.total}
        onKeyDown={(event) =>
          pressInTable(event, {
            rows: entries.flatMap((entry, place) => ('row' in entry ? place : [])),
            idAt,
            show: drawn.show,
            selection,
            onRemove,
          })
        }
      >
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
                  options={orders}
                  onChange={(value) => onListing({ ...listing, order: value as TakeInOrder })}
                  compact
                />
              </span>
            </th>
            <th className="py-2 font-normal">{messages.format}</th>
            {readings.map((key) => (
              <th key={key} className="py-2 pr-6 text-right font-normal whitespace-nowrap">
                {READING_NAMES[key].name}
              </th>
            ))}
            <th className="w-52 py-2 font-normal">{messages.against(spec.name)}</th>
            <th className="w-[30%] py-2 pr-4 pl-6 font-normal">
              <span className="flex items-center justify-between gap-2">
                {messages.missesAndFindings}
                <span className="flex gap-3">
                  <ColumnsMenu layout={layout} onChange={change} />
                  <ReadingsMenu jobId={jobId} />
                </span>
              </span>
            </th>
          </tr>
        </thead>
        <tbody>
          {drawn.rows.map(({ index, gap }) => {
            const entry = entries[index];
            if (!entry) return null;
            if ('head' in entry) {
              return (
                <Fragment key={index}>
                  <Gap height={gap} columns={columns} />
                  <Heading head={entry.head} index={index} columns={columns} measure={drawn.measure} />
                </Fragment>
              );
            }
            const programme = row(entry.row);
            return (
              <Fragment key={programme?.id ?? index}>
                <Gap height={gap} columns={columns} />
                {programme ? (
                  <TakeInTableRow
                    jobId={jobId}
                    programme={programme}
                    spec={spec}
                    groups={groupNames}
                    layout={layout}
                    index={index}
                    measure={drawn.measure}
                    isSelected={selection.ids.has(programme.id)}
                    onReplace={onReplace}
                    onSelect={selection.toggle}
                  />
                ) : (
                  <tr style={{ height: rowHeight }} className="border-b border-hair">
                    <td colSpan={columns} className="px-4 text-xs text-mute">
                      …
                    </td>
                  </tr>
                )}
              </Fragment>
            );
          })}
          <Gap height={drawn.rest} columns={columns} />
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

function Heading({
  head: { name, programmes, seconds },
  index,
  columns,
  measure,
}: {
  head: GroupHead;
  index: number;
  columns: number;
  measure: (row: HTMLTableRowElement | null) => void;
}) {
  return (
    <tr ref={measure} data-index={index} className="border-b border-hair bg-stock-1">
      <th colSpan={columns} scope="rowgroup" className="px-4 py-1.5 text-xs font-normal">
        <span className="font-bold">{name}</span>{' '}
        <span className="text-mute">{messages.group(programmes, formatTime(seconds))}</span>
      </th>
    </tr>
  );
}
