'use client';

import { Fragment, useCallback, useRef, useState } from 'react';
import { Gap, useDrawnRows } from '@/features/common/drawn-rows';
import type { Act } from '@/features/common/use-act';
import type { RowView } from '@/server/deliveries/sheet';
import type { ReceiverView } from '@/server/receivers/receivers';
import { Card } from '@/ui/card';
import { addRows, changeRow } from './actions';
import { DeliveryDialog } from './delivery-dialog';
import { sheetMessages as messages } from './messages';
import { askedOf, COLUMNS, SheetRow } from './sheet-row';
import { standingOf } from './standing';
import { keyOf, type PredictionFailures } from './use-predictions';

/** About as high as a row is that nothing is written of yet. */
const ROW_HEIGHT = 84;

/** The rows: what is asked, where it will land or has landed, what that took, and how far it is. However many there are, those are drawn that are looked at. */
export function Sheet({
  rows,
  failures,
  template,
  withTitles,
  jobId,
  receivers,
  isTicked,
  onTick,
  isBusy,
  act,
  edit,
}: {
  rows: readonly RowView[];
  failures: PredictionFailures;
  template: string;
  /** Of several programmes: each row tells which is its own. */
  withTitles: boolean;
  jobId: string;
  receivers: readonly ReceiverView[];
  isTicked: (row: RowView) => boolean;
  onTick: (rows: readonly RowView[], isOn: boolean) => void;
  /** Rows are being handed to be written: none is ticked or unticked meanwhile. */
  isBusy: boolean;
  act: Act;
  /** Of what can be taken back. */
  edit: Act;
}) {
  const [changed, setChanged] = useState<RowView>();
  const [copied, setCopied] = useState<RowView>();
  const [playedIds, setPlayedIds] = useState<ReadonlySet<string>>(new Set());
  const togglePlayer = useCallback(
    (id: string) =>
      setPlayedIds((before) => new Set(before.has(id) ? [...before].filter((own) => own !== id) : [...before, id])),
    [],
  );
  const table = useRef<HTMLTableElement>(null);
  // What is played goes on, wherever one scrolls to.
  const kept = rows.flatMap(({ id }, index) => (playedIds.has(id) ? index : []));
  const drawn = useDrawnRows(table, { count: rows.length, height: ROW_HEIGHT, kept });
  const canWrite = rows.filter((row) => standingOf(row) !== 'under-way' && row.problem === null);
  return (
    <Card flush className="overflow-x-auto">
      <table
        ref={table}
        aria-label={messages.deliveries}
        aria-rowcount={rows.length + 1}
        className="w-full min-w-6xl border-collapse text-left"
      >
        <thead className="text-xs text-mute">
          <tr className="border-b border-hair [&>th]:py-2 [&>th]:font-normal">
            <th className="w-10 pl-4">
              <input
                type="checkbox"
                aria-label={messages.writeAll}
                title={messages.writeAll}
                checked={canWrite.length > 0 && canWrite.every(isTicked)}
                disabled={isBusy || canWrite.length === 0}
                onChange={(event) => onTick(canWrite, event.target.checked)}
                className="mt-0.5 size-4 accent-(--color-action)"
              />
            </th>
            <th className="w-44">{messages.delivery}</th>
            <th>{messages.file}</th>
            <th className="w-44 pl-2">
              <span className="flex justify-between">
                <span>{messages.loudness}</span>
                <span>{messages.peak}</span>
              </span>
            </th>
            <th className="w-24 pl-3">{messages.limiter}</th>
            <th className="w-52">{messages.forecastMeasured}</th>
            <th className="w-20">{messages.size}</th>
            <th className="sticky right-0 w-80 bg-sheet pr-4 pl-3">{messages.state}</th>
          </tr>
        </thead>
        {drawn.rows.map(({ index, gap }) => {
          const row = rows[index];
          return row ? (
            <Fragment key={row.id}>
              <GapBody height={gap} />
              <SheetRow
                row={row}
                failure={failures.get(keyOf(row))}
                template={template}
                withTitle={withTitles}
                index={index}
                measure={drawn.measure}
                isTicked={isTicked(row)}
                onTick={onTick}
                isPlayed={playedIds.has(row.id)}
                onPlay={togglePlayer}
                onChange={setChanged}
                onCopy={setCopied}
                isBusy={isBusy}
                act={act}
                edit={edit}
              />
            </Fragment>
          ) : null;
        })}
        <GapBody height={drawn.rest} />
      </table>
      {changed ? (
        <DeliveryDialog
          title={messages.changeTheDeliveryFor(changed.spec.name)}
          action={messages.saveTheRow}
          target={{ jobId, programmeId: changed.programmeId }}
          receivers={receivers}
          initial={askedOf(changed)}
          onClose={() => setChanged(undefined)}
          onDone={(wanted) => {
            setChanged(undefined);
            edit(() => changeRow(changed.id, wanted, askedOf(changed)));
          }}
        />
      ) : null}
      {copied ? (
        <DeliveryDialog
          title={messages.anotherLike(copied.spec.name)}
          action={messages.addTheRow}
          target={{ jobId, programmeId: copied.programmeId }}
          receivers={receivers}
          initial={askedOf(copied)}
          onClose={() => setCopied(undefined)}
          onDone={(wanted) => {
            const { programmeId } = copied;
            setCopied(undefined);
            edit(() => addRows({ jobId, programmeId }, wanted));
          }}
        />
      ) : null}
    </Card>
  );
}

function GapBody({ height }: { height: number }) {
  return height > 0 ? (
    <tbody>
      <Gap height={height} columns={COLUMNS} />
    </tbody>
  ) : null;
}
