'use client';

import { Pencil, X } from 'lucide-react';
import { useState } from 'react';
import { fileStem } from '@/core/delivery/file-name';
import { describeLevelMode } from '@/core/delivery/row';
import { formatBytes, formatNumber } from '@/core/units/format';
import { MiniRule } from '@/features/common/mini-rule';
import { StateMark, StatePill } from '@/features/common/state-mark';
import type { Act } from '@/features/common/use-act';
import type { RowView } from '@/server/deliveries/sheet';
import type { DeliveryView } from '@/server/jobs/delivery-view';
import type { ReceiverView } from '@/server/receivers/receivers';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { changeRow, resetEdges, type WhatToDeliver } from './actions';
import { Decide } from './decide';
import { DeliveryDialog } from './delivery-dialog';
import { sheetMessages as messages } from './messages';
import { CertificateLinks, Downloads, FileFacts, Landed, Reduction } from './row-facts';
import { State } from './row-state';
import { standingOf } from './standing';
import { TransferState } from './transfer-state';
import { keyOf, type PredictionFailures } from './use-predictions';
import { PlayButton, WrittenPlayer } from './written-player';

const COLUMNS = 8;

/** The rows: what is asked, where it will land or has landed, what that took, and how far it is. */
export function Sheet({
  rows,
  failures,
  template,
  withTitles,
  jobId,
  receivers,
  isTicked,
  onTick,
  onRemove,
  isBusy,
  act,
}: {
  rows: readonly RowView[];
  failures: PredictionFailures;
  template: string;
  /** Of several programmes: each row tells which is its own. */
  withTitles: boolean;
  jobId: string;
  receivers: readonly ReceiverView[];
  isTicked: (row: RowView) => boolean;
  onTick: (row: RowView, isOn: boolean) => void;
  onRemove: (row: RowView, name: string) => void;
  /** Rows are being handed to be written: none is ticked or unticked meanwhile. */
  isBusy: boolean;
  act: Act;
}) {
  const [changed, setChanged] = useState<RowView>();
  return (
    <Card flush className="overflow-x-auto">
      <table aria-label={messages.deliveries} className="w-full min-w-6xl border-collapse text-left">
        <thead className="text-xs text-mute">
          <tr className="border-b border-hair [&>th]:py-2 [&>th]:font-normal">
            <th className="w-10 pl-4">
              <span className="sr-only">{messages.toWrite}</span>
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
            <th className="sticky right-0 w-76 bg-sheet pr-4 pl-3">{messages.state}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <Row
              key={row.id}
              row={row}
              failure={failures.get(keyOf(row))}
              template={template}
              withTitle={withTitles}
              isTicked={isTicked(row)}
              onTick={(isOn) => onTick(row, isOn)}
              onChange={() => setChanged(row)}
              onRemove={() => onRemove(row, `${fileStem(template, row.nameFields)}.${row.extension}`)}
              isBusy={isBusy}
              act={act}
            />
          ))}
        </tbody>
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
            const { id } = changed;
            setChanged(undefined);
            act(() => changeRow(id, wanted));
          }}
        />
      ) : null}
    </Card>
  );
}

/** What a row asks for, to be changed. */
function askedOf({ spec, format, levelMode, receiver }: RowView): WhatToDeliver {
  return { specId: spec.id, format, levelMode, receiverId: receiver?.id ?? null };
}

function Row({
  row,
  failure,
  template,
  withTitle,
  isTicked,
  onTick,
  onChange,
  onRemove,
  isBusy,
  act,
}: {
  row: RowView;
  failure: { happened: string; todo: string } | undefined;
  template: string;
  withTitle: boolean;
  isTicked: boolean;
  onTick: (isOn: boolean) => void;
  onChange: () => void;
  onRemove: () => void;
  isBusy: boolean;
  act: Act;
}) {
  const { spec, delivery, prediction, problem, levelMode } = row;
  const standing = standingOf(row);
  const written = delivery?.written ?? null;
  const readings = written?.readings ?? delivery?.predicted ?? prediction?.readings;
  const reduction = written ? written.reduction : (prediction?.reduction ?? null);
  const name = delivery?.fileName ?? `${fileStem(template, row.nameFields)}.${row.extension}`;
  const isFixed = standing === 'under-way';
  const [isPlaying, setIsPlaying] = useState(false);
  return (
    <>
      <tr data-standing={standing} className="border-t border-hair align-top first:border-0">
        <td className="py-3 pl-4">
          <input
            type="checkbox"
            aria-label={messages.writeRow(name)}
            checked={isTicked && !isFixed && !problem}
            disabled={isFixed || isBusy || problem !== null}
            onChange={(event) => onTick(event.target.checked)}
            className="mt-0.5 size-4 accent-(--color-action)"
          />
        </td>
        <td className="py-2.5 pr-3">
          {withTitle ? <span className="block truncate text-xs text-mute">{row.title}</span> : null}
          <span className="block text-sm font-bold">{spec.name}</span>
          <span className="block text-xs text-mute">
            {describeLevelMode(levelMode)}
            {levelMode.kind === 'solved' && levelMode.marginDb > 0
              ? messages.aimedBelowTheCeiling(formatNumber(levelMode.marginDb))
              : ''}
            {row.trim ? messages.aSpan : ''}
          </span>
          {row.isTwin ? <span className="block text-xs text-advice">{messages.sameAsARowAbove}</span> : null}
          {row.hasOwnEdges ? (
            <span className="block text-xs text-mute">
              {messages.paddedWithRoomTone}{' '}
              {isFixed ? null : (
                <button
                  type="button"
                  className="cursor-pointer underline"
                  onClick={() => act(() => resetEdges(row.id))}
                >
                  {messages.reset}
                </button>
              )}
            </span>
          ) : null}
        </td>
        <td className="max-w-64 py-2.5 pr-3">
          <span className="block truncate text-sm">{row.formatText}</span>
          <span className="block truncate text-xs text-mute" title={name}>
            {name}
          </span>
          {row.receiver ? (
            <span className="block truncate text-xs text-mute">{messages.to(row.receiver.name)}</span>
          ) : null}
          {written ? <FileFacts delivery={delivery as DeliveryView} /> : null}
        </td>
        <td className="py-2 pl-2">{readings ? <MiniRule readings={readings} spec={spec} labelled /> : null}</td>
        <td className="py-2.5 pl-3 font-mono text-sm whitespace-nowrap">
          {!readings ? '' : reduction ? <Reduction reduction={reduction} /> : messages.notLimited}
        </td>
        <td className="py-2.5 font-mono text-xs">
          {readings ? (
            <Landed predicted={delivery?.predicted ?? readings} measured={written?.readings} spec={spec} />
          ) : null}
        </td>
        <td className="py-2.5 font-mono text-sm whitespace-nowrap">
          {delivery?.written
            ? formatBytes(delivery.written.sizeBytes)
            : prediction
              ? `${prediction.size.isExact ? '' : '≈ '}${formatBytes(prediction.size.bytes)}`
              : ''}
        </td>
        <td className="sticky right-0 bg-sheet py-2 pr-3 pl-3">
          <div className="flex flex-wrap items-center justify-end gap-1.5">
            <span className={written ? 'w-full' : 'mr-auto'}>
              {row.transfer?.state === 'accepted' ? (
                <StatePill state="inside">{messages.accepted}</StatePill>
              ) : (
                <State row={row} failure={failure} act={act} />
              )}
            </span>
            {written ? (
              <>
                <PlayButton isOpen={isPlaying} name={name} onToggle={() => setIsPlaying(!isPlaying)} />
                <Downloads delivery={delivery as DeliveryView} />
                <CertificateLinks delivery={delivery as DeliveryView} />
              </>
            ) : null}
            {isFixed ? null : (
              <>
                <Button
                  kind="quiet"
                  aria-label={messages.changeTheRowOf(name)}
                  title={messages.change}
                  onClick={onChange}
                >
                  <Pencil size={15} aria-hidden />
                </Button>
                <Button
                  kind="quiet"
                  aria-label={messages.removeRow(name)}
                  title={messages.removeRowHint}
                  onClick={onRemove}
                >
                  <X size={16} aria-hidden />
                </Button>
              </>
            )}
          </div>
          <TransferState row={row} act={act} />
        </td>
      </tr>
      {isPlaying && written ? (
        <tr>
          <td colSpan={COLUMNS} className="px-4 pb-3">
            <WrittenPlayer delivery={delivery as DeliveryView} />
          </td>
        </tr>
      ) : null}
      {standing === 'missed' ? (
        <tr>
          <td colSpan={COLUMNS} className="px-4 pb-3">
            <Decide delivery={delivery as DeliveryView} spec={spec} format={row.resolved} act={act} />
          </td>
        </tr>
      ) : null}
      {problem && standing === 'planned' ? (
        <tr>
          <td colSpan={COLUMNS} className="px-4 pb-3">
            <div className="flex flex-wrap items-center gap-3 rounded-control bg-breach-1 px-3 py-2 text-sm">
              <span className="grow">
                <StateMark state="over" /> {problem.text}
              </span>
              <Button onClick={() => act(() => changeRow(row.id, { ...askedOf(row), format: problem.nearest }))}>
                {messages.writeNearest(problem.nearestText)}
              </Button>
            </div>
          </td>
        </tr>
      ) : null}
    </>
  );
}
