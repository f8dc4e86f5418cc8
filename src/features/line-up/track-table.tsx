'use client';

import {
  type Announcements,
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { GripVertical } from 'lucide-react';
import { Fragment, memo, useId, useMemo, useRef, useState } from 'react';
import { formatIsrc } from '@/core/file-formats/tags';
import { MOST_GAP_SECONDS } from '@/core/lineup/line-up';
import { GAIN_LIMIT_DB } from '@/core/treatment/steps/gain';
import { formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { parseGap, parseNumber } from '@/core/units/parse';
import { stageAddress } from '@/features/common/address';
import { Gap, useDrawnRows } from '@/features/common/drawn-rows';
import type { LineUpReadingView, TrackView } from '@/server/line-ups/line-up-reading';
import { classNames } from '@/ui/class-names';
import { TypedField } from '@/ui/typed-field';
import { WorkLink } from '@/ui/work-link';
import { trackTableMessages as messages } from './messages';

const HEADS = [
  'number',
  'programme',
  'starts',
  'length',
  'gapAfter',
  'loudness',
  'fromWhole',
  'gain',
  'limiter',
  'peak',
  'isrc',
] as const;

const ROW_HEIGHT = 35;

/**
 * The programmes of a line-up in order, to be moved, with the gaps between them. However many there are, those are drawn that are
 * looked at, and the one that is being moved.
 */
export function TrackTable({
  reading,
  jobId,
  chosenId,
  onChoose,
  onMove,
  onGap,
  onGain,
}: {
  reading: LineUpReadingView;
  jobId: string;
  chosenId: string | null;
  onChoose: (programmeId: string) => void;
  /** @param programmeIds in their new order */
  onMove: (programmeIds: string[]) => void;
  onGap: (programmeId: string, gapSeconds: number) => void;
  onGain: (programmeId: string, gainDb: number) => void;
}) {
  const { tracks, lineUp, spec, loudest } = reading;
  const ids = useMemo(() => tracks.map(({ programmeId }) => programmeId), [tracks]);
  // Columns that would be empty are left out.
  const hasIsrcs = tracks.some(({ isrc }) => isrc !== '');
  const hasLimiters = tracks.some(({ reductionDb }) => reductionDb !== null);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const contextId = useId();
  const titleOf = (id: string | number) => tracks.find(({ programmeId }) => programmeId === id)?.title ?? '';
  const placeOf = (id: string | number) => messages.place(ids.indexOf(String(id)) + 1, ids.length);
  const announcements: Announcements = {
    onDragStart: ({ active }) => messages.pickedUp(titleOf(active.id), placeOf(active.id)),
    onDragOver: ({ active, over }) => messages.isAt(titleOf(active.id), placeOf((over ?? active).id)),
    onDragEnd: ({ active, over }) => messages.putDown(titleOf(active.id), placeOf((over ?? active).id)),
    onDragCancel: ({ active }) => messages.notMoved(titleOf(active.id)),
  };
  const table = useRef<HTMLTableElement>(null);
  const [movedId, setMovedId] = useState<string>();
  const kept = movedId === undefined ? [] : [ids.indexOf(movedId)];
  const drawn = useDrawnRows(table, { count: tracks.length, height: ROW_HEIGHT, kept });
  const heads = HEADS.filter((head) => (head === 'isrc' ? hasIsrcs : head === 'limiter' ? hasLimiters : true));
  const drop = ({ active, over }: DragEndEvent) => {
    setMovedId(undefined);
    const [from, to] = [ids.indexOf(String(active.id)), ids.indexOf(String(over?.id ?? ''))];
    if (from >= 0 && to >= 0 && from !== to) onMove(arrayMove(ids, from, to));
  };
  return (
    <DndContext
      id={contextId}
      sensors={sensors}
      collisionDetection={closestCenter}
      accessibility={{ announcements, screenReaderInstructions: { draggable: messages.howToMove } }}
      onDragStart={({ active }) => setMovedId(String(active.id))}
      onDragCancel={() => setMovedId(undefined)}
      onDragEnd={drop}
    >
      <table ref={table} aria-rowcount={tracks.length + 1} className="w-full border-collapse text-left text-[13px]">
        <caption className="sr-only">{messages.caption(lineUp.name)}</caption>
        <thead>
          <tr className="border-b border-hair text-xs text-mute">
            {heads.map((head) => (
              <th key={head} scope="col" className="px-2 py-2 font-normal whitespace-nowrap first:pl-3">
                {messages[head]}
              </th>
            ))}
          </tr>
        </thead>
        <SortableContext items={ids} strategy={verticalListSortingStrategy}>
          <tbody>
            {drawn.rows.map(({ index, gap }) => {
              const track = tracks[index];
              return track ? (
                <Fragment key={track.programmeId}>
                  <Gap height={gap} columns={heads.length} />
                  <TrackRow
                    track={track}
                    index={index}
                    measure={drawn.measure}
                    address={stageAddress(jobId, 'measure-and-set', { programme: track.programmeId, spec: spec.id })}
                    isChosen={track.programmeId === chosenId}
                    isLoudest={track.programmeId === loudest && tracks.length > 1}
                    onChoose={onChoose}
                    hasIsrc={hasIsrcs}
                    hasLimiter={hasLimiters}
                    onGap={onGap}
                    onGain={onGain}
                  />
                </Fragment>
              ) : null;
            })}
            <Gap height={drawn.rest} columns={heads.length} />
          </tbody>
        </SortableContext>
      </table>
    </DndContext>
  );
}

/** Drawn again only where something of it changes, not as one scrolls. */
const TrackRow = memo(function TrackRow({
  track,
  index,
  measure,
  address,
  isChosen,
  isLoudest,
  hasIsrc,
  hasLimiter,
  onChoose,
  onGap,
  onGain,
}: {
  track: TrackView;
  index: number;
  /** Takes the row, for its height. */
  measure: (row: HTMLElement | null) => void;
  address: string;
  isChosen: boolean;
  isLoudest: boolean;
  /** Whether there are columns for these. */
  hasIsrc: boolean;
  hasLimiter: boolean;
  onChoose: (programmeId: string) => void;
  onGap: (programmeId: string, gapSeconds: number) => void;
  onGain: (programmeId: string, gainDb: number) => void;
}) {
  const { programmeId, title, startSeconds, durationSeconds, sampleRateHz, gapSeconds } = track;
  const { integratedLufs, fromWholeLu, gainDb } = track;
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: programmeId,
  });
  const { reductionDb, truePeakDbtp, peakState, isrc } = track;
  const isOver = peakState === 'over';
  return (
    <tr
      ref={(row) => {
        setNodeRef(row);
        measure(row);
      }}
      data-index={index}
      aria-rowindex={index + 2}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      onFocus={() => onChoose(programmeId)}
      onPointerDown={() => onChoose(programmeId)}
      className={classNames(
        'border-b border-hair last:border-b-0',
        isChosen && 'bg-stock-1/60',
        isDragging && 'relative z-10 bg-stock-1 shadow-lg',
      )}
    >
      <td className="py-1 pr-2 pl-3 whitespace-nowrap">
        <button
          type="button"
          ref={setActivatorNodeRef}
          {...attributes}
          {...listeners}
          aria-label={messages.move(title)}
          title={messages.moveHint}
          className="mr-1 cursor-grab rounded-control p-1 align-middle text-mute hover:bg-stock-1"
        >
          <GripVertical size={14} aria-hidden />
        </button>
        <span className="font-mono">{index + 1}</span>
      </td>
      <th scope="row" className="max-w-56 truncate px-2 py-1 font-bold">
        <WorkLink href={address} className="hover:underline">
          {title}
        </WorkLink>
        {isLoudest ? <span className="ml-2 text-xs font-normal text-mute">{messages.loudest}</span> : null}
      </th>
      <td className="px-2 py-1 font-mono">{formatTime(startSeconds, { milliseconds: true })}</td>
      <td className="px-2 py-1 font-mono">{formatTime(durationSeconds, { milliseconds: true })}</td>
      <td className="px-2 py-1" title={messages.gapHint}>
        {gapSeconds === null ? null : (
          <TypedField
            label={messages.gapAfterOf(title)}
            isLabelled={false}
            value={gapSeconds}
            format={formatGap}
            parse={(text) => gapWithin(parseGap(text, sampleRateHz))}
            onCommit={(value) => value !== gapSeconds && onGap(programmeId, value)}
            className="w-20"
          />
        )}
      </td>
      <td className="px-2 py-1 font-mono whitespace-nowrap">{formatLevel(integratedLufs, 'LUFS')}</td>
      <td className="px-2 py-1 font-mono whitespace-nowrap">
        {fromWholeLu === null ? '–' : `${formatNumber(fromWholeLu, 1, { plus: true })} LU`}
      </td>
      <td className="px-2 py-1">
        <TypedField
          label={messages.gainOf(title)}
          isLabelled={false}
          value={gainDb}
          format={(value) => formatNumber(value, 1, { plus: true })}
          parse={parseGain}
          onCommit={(value) => value !== gainDb && onGain(programmeId, value)}
          onStep={(steps) => onGain(programmeId, withinGain(gainDb + STEP_DB * steps))}
          className="w-16"
        />
      </td>
      {hasLimiter ? (
        <td className="px-2 py-1 font-mono whitespace-nowrap">
          {reductionDb === null ? messages.none : `${formatNumber(reductionDb)} dB`}
        </td>
      ) : null}
      <td className={classNames('px-2 py-1 font-mono whitespace-nowrap', isOver && 'font-bold text-breach')}>
        {isOver ? '▲ ' : ''}
        {formatLevel(truePeakDbtp, 'dBTP')}
      </td>
      {hasIsrc ? (
        <td className="px-2 py-1 font-mono whitespace-nowrap">{isrc === '' ? '–' : formatIsrc(isrc)}</td>
      ) : null}
    </tr>
  );
});

function gapWithin(gapSeconds: number | undefined): number | undefined {
  return gapSeconds !== undefined && Math.abs(gapSeconds) <= MOST_GAP_SECONDS ? gapSeconds : undefined;
}

/** In hundredths of a second, and finer where it is. */
function formatGap(gapSeconds: number): string {
  return formatNumber(gapSeconds, Math.abs(100 * gapSeconds - Math.round(100 * gapSeconds)) < 1e-6 ? 2 : 4);
}

const STEP_DB = 0.1;

/** A gain as it is typed, to a hundredth of a dB. */
function parseGain(text: string): number | undefined {
  return parseWithin(text, 'dB', GAIN_LIMIT_DB, 100);
}

/** A number of either sign that is no larger than `most`, rounded to so many parts of one. */
function parseWithin(text: string, unit: string, most: number, parts: number): number | undefined {
  const value = parseNumber(text, unit);
  return value !== undefined && Math.abs(value) <= most ? Math.round(value * parts) / parts : undefined;
}

function withinGain(gainDb: number): number {
  return Math.round(100 * Math.max(-GAIN_LIMIT_DB, Math.min(GAIN_LIMIT_DB, gainDb))) / 100;
}
