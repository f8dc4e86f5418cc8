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
import { useId } from 'react';
import { MOST_GAP_SECONDS } from '@/core/lineup/line-up';
import { formatGain, formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { stageAddress } from '@/features/common/address';
import type { LineUpReadingView, TrackView } from '@/server/line-ups/line-up-reading';
import { classNames } from '@/ui/class-names';
import { TypedField } from '@/ui/typed-field';
import { WorkLink } from '@/ui/work-link';
import { trackTableMessages as messages } from './messages';

const HEADS = [
  messages.number,
  messages.programme,
  messages.starts,
  messages.length,
  messages.gapAfter,
  messages.loudness,
  messages.fromWhole,
  messages.gain,
  messages.limiter,
  messages.peak,
] as const;

/** The programmes of a line-up in order, to be moved, with the gaps between them. */
export function TrackTable({
  reading,
  jobId,
  chosenId,
  onChoose,
  onMove,
  onGap,
}: {
  reading: LineUpReadingView;
  jobId: string;
  chosenId: string | null;
  onChoose: (programmeId: string) => void;
  /** @param programmeIds in their new order */
  onMove: (programmeIds: string[]) => void;
  onGap: (programmeId: string, gapSeconds: number) => void;
}) {
  const { tracks, lineUp, spec, loudest } = reading;
  const ids = tracks.map(({ programmeId }) => programmeId);
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
  const drop = ({ active, over }: DragEndEvent) => {
    const [from, to] = [ids.indexOf(String(active.id)), ids.indexOf(String(over?.id ?? ''))];
    if (from >= 0 && to >= 0 && from !== to) onMove(arrayMove(ids, from, to));
  };
  return (
    <DndContext
      id={contextId}
      sensors={sensors}
      collisionDetection={closestCenter}
      accessibility={{ announcements, screenReaderInstructions: { draggable: messages.howToMove } }}
      onDragEnd={drop}
    >
      <table className="w-full border-collapse text-left text-[13px]">
        <caption className="sr-only">{messages.caption(lineUp.name)}</caption>
        <thead>
          <tr className="border-b border-hair text-xs text-mute">
            {HEADS.map((head) => (
              <th key={head} scope="col" className="px-3 py-2 font-normal whitespace-nowrap">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <SortableContext items={ids} strategy={verticalListSortingStrategy}>
          <tbody>
            {tracks.map((track, i) => (
              <TrackRow
                key={track.programmeId}
                track={track}
                number={i + 1}
                address={stageAddress(jobId, 'measure-and-set', { programme: track.programmeId, spec: spec.id })}
                isChosen={track.programmeId === chosenId}
                isLoudest={track.programmeId === loudest && tracks.length > 1}
                onChoose={onChoose}
                onGap={onGap}
              />
            ))}
          </tbody>
        </SortableContext>
      </table>
    </DndContext>
  );
}

function TrackRow({
  track,
  number,
  address,
  isChosen,
  isLoudest,
  onChoose,
  onGap,
}: {
  track: TrackView;
  number: number;
  address: string;
  isChosen: boolean;
  isLoudest: boolean;
  onChoose: (programmeId: string) => void;
  onGap: (programmeId: string, gapSeconds: number) => void;
}) {
  const { programmeId, title, startSeconds, durationSeconds, gapSeconds, integratedLufs, fromWholeLu, gainDb } = track;
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: programmeId,
  });
  const { reductionDb, truePeakDbtp, peakState } = track;
  const isOver = peakState === 'over';
  return (
    <tr
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      onFocus={() => onChoose(programmeId)}
      onPointerDown={() => onChoose(programmeId)}
      className={classNames(
        'border-b border-hair last:border-b-0',
        isChosen && 'bg-stock-1/60',
        isDragging && 'relative z-10 bg-stock-1 shadow-lg',
      )}
    >
      <td className="px-3 py-1 whitespace-nowrap">
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
        <span className="font-mono">{number}</span>
      </td>
      <th scope="row" className="max-w-56 truncate px-3 py-1 font-bold">
        <WorkLink href={address} className="hover:underline">
          {title}
        </WorkLink>
        {isLoudest ? <span className="ml-2 text-xs font-normal text-mute">{messages.loudest}</span> : null}
      </th>
      <td className="px-3 py-1 font-mono">{formatTime(startSeconds, { milliseconds: true })}</td>
      <td className="px-3 py-1 font-mono">{formatTime(durationSeconds, { milliseconds: true })}</td>
      <td className="px-3 py-1">
        {gapSeconds === null ? null : (
          <TypedField
            label={messages.gapAfterOf(title)}
            isLabelled={false}
            value={gapSeconds}
            format={(value) => formatNumber(value, 2)}
            parse={parseGap}
            onCommit={(value) => value !== gapSeconds && onGap(programmeId, value)}
            className="w-20"
          />
        )}
      </td>
      <td className="px-3 py-1 font-mono whitespace-nowrap">{formatLevel(integratedLufs, 'LUFS')}</td>
      <td className="px-3 py-1 font-mono whitespace-nowrap">
        {fromWholeLu === null ? '–' : `${formatNumber(fromWholeLu, 1, { plus: true })} LU`}
      </td>
      <td className="px-3 py-1 font-mono whitespace-nowrap">{formatGain(gainDb)}</td>
      <td className="px-3 py-1 font-mono whitespace-nowrap">
        {reductionDb === null ? messages.none : `${formatNumber(reductionDb)} dB`}
      </td>
      <td className={classNames('px-3 py-1 font-mono whitespace-nowrap', isOver && 'font-bold text-breach')}>
        {isOver ? '▲ ' : ''}
        {formatLevel(truePeakDbtp, 'dBTP')}
      </td>
    </tr>
  );
}

/** Seconds as they are typed: with a point or a comma, and a minus of either kind. */
function parseGap(text: string): number | undefined {
  const value = Number(text.trim().replace(',', '.').replace('−', '-'));
  return text.trim() !== '' && Math.abs(value) <= MOST_GAP_SECONDS ? Math.round(value * 1000) / 1000 : undefined;
}
