'use client';

import { Copy, Pencil, X } from 'lucide-react';
import { memo } from 'react';
import { fileStem } from '@/core/delivery/file-name';
import { describeLevelMode } from '@/core/delivery/row';
import { formatBytes, formatNumber } from '@/core/units/format';
import { MiniRule } from '@/features/common/mini-rule';
import { StateMark, StatePill } from '@/features/common/state-mark';
import type { Act } from '@/features/common/use-act';
import type { RowView } from '@/server/deliveries/sheet';
import type { DeliveryView } from '@/server/jobs/delivery-view';
import { Button } from '@/ui/button';
import { changeRow, removeRow, resetEdges, type WhatToDeliver } from './actions';
import { Decide } from './decide';
import { sheetMessages as messages } from './messages';
import { CertificateLinks, Downloads, FileFacts, Landed, Reduction } from './row-facts';
import { State } from './row-state';
import { standingOf } from './standing';
import { TransferState } from './transfer-state';
import { PlayButton, WrittenPlayer } from './written-player';

export const COLUMNS = 8;

/** One row: what is asked, where it will land or has landed, what that took, how far it is, and what can be done with it. Drawn again only where something of it changes, not as one scrolls. */
export const SheetRow = memo(function SheetRow({
  row,
  failure,
  template,
  withTitle,
  index,
  measure,
  isTicked,
  onTick,
  isPlayed,
  onPlay,
  onChange,
  onCopy,
  isBusy,
  act,
  edit,
}: {
  row: RowView;
  failure: { happened: string; todo: string } | undefined;
  template: string;
  withTitle: boolean;
  /** Among all rows, for whoever measures its height. */
  index: number;
  measure: (row: HTMLElement | null) => void;
  isTicked: boolean;
  onTick: (rows: readonly RowView[], isOn: boolean) => void;
  /** Its player is open. */
  isPlayed: boolean;
  onPlay: (rowId: string) => void;
  onChange: (row: RowView) => void;
  onCopy: (row: RowView) => void;
  isBusy: boolean;
  act: Act;
  edit: Act;
}) {
  const { spec, delivery, prediction, problem, levelMode } = row;
  const standing = standingOf(row);
  const written = delivery?.written ?? null;
  const readings = written?.readings ?? delivery?.predicted ?? prediction?.readings;
  const reduction = written ? written.reduction : (prediction?.reduction ?? null);
  const name = delivery?.fileName ?? `${fileStem(template, row.nameFields)}.${row.extension}`;
  const isFixed = standing === 'under-way';
  return (
    <tbody ref={measure} data-index={index} className="border-b border-hair last:border-0">
      <tr data-standing={standing} aria-rowindex={index + 2} className="align-top">
        <td className="py-3 pl-4">
          <input
            type="checkbox"
            aria-label={messages.writeRow(name)}
            checked={isTicked && !isFixed && !problem}
            disabled={isFixed || isBusy || problem !== null}
            onChange={(event) => onTick([row], event.target.checked)}
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
                  onClick={() => edit(() => resetEdges(row.id))}
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
          <div className="flex flex-wrap items-center justify-end gap-x-0.5 gap-y-1.5">
            <span className={written ? 'w-full' : 'mr-auto'}>
              {row.transfer?.state === 'accepted' ? (
                <StatePill state="inside">{messages.accepted}</StatePill>
              ) : (
                <State row={row} failure={failure} edit={edit} />
              )}
            </span>
            {written ? (
              <>
                <PlayButton isOpen={isPlayed} name={name} onToggle={() => onPlay(row.id)} />
                <Downloads delivery={delivery as DeliveryView} />
                <CertificateLinks delivery={delivery as DeliveryView} />
              </>
            ) : null}
            <Button
              kind="quiet"
              aria-label={messages.copyRow(name)}
              title={messages.copyRowHint}
              onClick={() => onCopy(row)}
            >
              <Copy size={15} aria-hidden />
            </Button>
            {isFixed ? null : (
              <>
                <Button
                  kind="quiet"
                  aria-label={messages.changeTheRowOf(name)}
                  title={messages.change}
                  onClick={() => onChange(row)}
                >
                  <Pencil size={15} aria-hidden />
                </Button>
                <Button
                  kind="quiet"
                  aria-label={messages.removeRow(name)}
                  title={messages.removeRowHint}
                  onClick={() => edit(() => removeRow(row.id))}
                >
                  <X size={16} aria-hidden />
                </Button>
              </>
            )}
          </div>
          <TransferState row={row} act={act} />
        </td>
      </tr>
      {isPlayed && written ? (
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
              <Button
                onClick={() =>
                  edit(() => changeRow(row.id, { ...askedOf(row), format: problem.nearest }, askedOf(row)))
                }
              >
                {messages.writeNearest(problem.nearestText)}
              </Button>
            </div>
          </td>
        </tr>
      ) : null}
    </tbody>
  );
});

/** What a row asks for, to be changed. */
export function askedOf({ spec, format, levelMode, receiver }: RowView): WhatToDeliver {
  return { specId: spec.id, format, levelMode, receiverId: receiver?.id ?? null };
}
