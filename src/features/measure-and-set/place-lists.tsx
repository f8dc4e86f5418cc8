'use client';

import { Tabs } from 'radix-ui';
import type { ReactNode } from 'react';
import type { Readings } from '@/core/loudness/readings';
import type { Over } from '@/core/peak/overs';
import type { Spec } from '@/core/spec/spec';
import type { Timeline } from '@/core/treatment/timeline';
import { formatGain, formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { type StartTimeCode, timeCodeAt } from '@/core/units/time-code';
import type { MarkerView } from '@/server/jobs/programme-view';
import { classNames } from '@/ui/class-names';
import { TypedField } from '@/ui/typed-field';
import { placeListsMessages as messages } from './messages';
import { type NamedPlace, type Place, placeOfOver, placeOfPassage } from './places';

/** Rows that are drawn; a mix that is over from end to end has thousands. */
const SHOWN = 200;

export type PlaceList = 'options' | 'overs' | 'loudest' | 'places' | 'picture';

/** Where to listen first: stretches above the ceiling, the loudest passages, and whatever else is worth going to. */
export function PlaceLists({
  overs,
  treated,
  spec,
  timeline,
  rateHz,
  timeCode,
  channelLabels,
  found,
  markers,
  selected,
  options,
  list,
  onList,
  onSelect,
  isKnown,
  onDrop,
  onRename,
  fromList,
  picture,
}: {
  overs: readonly Over[];
  /** The programme's readings after its treatment. */
  treated: Readings;
  spec: Spec;
  timeline: Timeline;
  /** Of the source. */
  rateHz: number;
  /** Null where the file states none. */
  timeCode: StartTimeCode | null;
  channelLabels: readonly string[];
  found: readonly NamedPlace[];
  /** That a person has kept. */
  markers: readonly MarkerView[];
  selected: Place | undefined;
  /** What can be done where the ceiling stops the gain; null where it does not. */
  options: ReactNode;
  list: PlaceList;
  onList: (list: PlaceList) => void;
  onSelect: (place: Place | undefined) => void;
  /** The peaks along time are there: what stands above the ceiling is known. */
  isKnown: boolean;
  onDrop: (markerId: string) => void;
  onRename: (markerId: string, name: string) => void;
  /** Makes markers of a list. */
  fromList: ReactNode;
  /** Of a film; null of all else. */
  picture: ReactNode;
}) {
  const row = (place: Place, level: ReactNode, detail: ReactNode, extra?: ReactNode, title?: string) => (
    <li key={place.key} className="flex items-center border-b border-hair last:border-0">
      <button
        type="button"
        title={title}
        aria-pressed={place.key === selected?.key}
        onClick={() => onSelect(place.key === selected?.key ? undefined : place)}
        className={classNames(
          'flex min-w-0 grow cursor-pointer justify-between gap-2 rounded-sm px-1 py-px text-left hover:bg-stock-1 focus-visible:-outline-offset-2!',
          place.key === selected?.key && (place.frames === 0 ? 'bg-breach-1' : 'bg-stock-2'),
        )}
      >
        <span className="whitespace-nowrap">
          {/* Beside a time code there is room for whole seconds. */}
          {formatTime(Math.max(0, place.frame) / rateHz, { milliseconds: timeCode === null })}
          {timeCode ? (
            <span className="ml-2 text-[11px] text-mute">{timeCodeAt(timeCode, Math.max(0, place.frame), rateHz)}</span>
          ) : null}
        </span>
        {level}
        <span className="max-w-24 truncate text-right text-mute">{detail}</span>
      </button>
      {extra}
    </li>
  );
  const passages = (seconds: 3 | 10) =>
    (seconds === 3 ? treated.loudest3s : treated.loudest10s).map((passage, rank) =>
      row(
        placeOfPassage(passage, seconds, timeline, rateHz),
        <span className="whitespace-nowrap">{formatLevel(passage.lufs, 'LUFS')}</span>,
        `${seconds} s, ${rank + 1}.`,
      ),
    );
  const tabs: { value: PlaceList; label: string }[] = [
    ...(options ? [{ value: 'options' as const, label: messages.options }] : []),
    { value: 'overs', label: messages.overs },
    { value: 'loudest', label: messages.loudest },
    { value: 'places', label: messages.markers },
    ...(picture ? [{ value: 'picture' as const, label: messages.picture }] : []),
  ];
  const shown = tabs.some(({ value }) => value === list) ? list : 'overs';
  return (
    <Tabs.Root
      value={shown}
      onValueChange={(value) => onList(value as PlaceList)}
      className="flex min-h-0 min-w-0 flex-col rounded-card border border-hair bg-sheet px-4 py-1.5"
    >
      <Tabs.List aria-label={messages.optionsOversAndMarkers} className="mb-1 flex gap-3 text-sm whitespace-nowrap">
        {tabs.map(({ value, label }) => (
          <Tabs.Trigger
            key={value}
            value={value}
            className="cursor-pointer rounded-sm border-b-2 border-transparent font-semibold text-mute data-[state=active]:border-slide-ink data-[state=active]:text-ink"
          >
            {label}
            {value === 'overs' ? (
              <span className="ml-1 inline-block min-w-4 font-mono text-xs">{overs.length || ''}</span>
            ) : null}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      <Tabs.Content value="options" tabIndex={-1} className="min-h-0 overflow-y-auto">
        {options}
      </Tabs.Content>
      <Tabs.Content value="picture" tabIndex={-1} className="min-h-0 grow data-[state=inactive]:hidden">
        {picture}
      </Tabs.Content>
      <Panel
        value="overs"
        empty={isKnown ? messages.nothingOver(formatLevel(spec.peak.ceiling, 'dBTP')) : messages.notMeasuredYet}
      >
        {[...overs]
          .sort((a, b) => b.excessDb - a.excessDb)
          .slice(0, SHOWN)
          .map((over) =>
            row(
              placeOfOver(over, timeline),
              <span className="text-breach">{formatGain(over.excessDb)}</span>,
              channelsText(over.channels, channelLabels),
            ),
          )}
      </Panel>
      <Panel value="loudest" empty={messages.noLoudest}>
        {[...passages(3), ...passages(10)]}
      </Panel>
      <Panel value="places" empty={messages.noMarkers} head={fromList}>
        {[
          ...markers.map(({ id, startFrame, endFrame, name }) => {
            const length = endFrame === null ? '' : `${formatNumber((endFrame - startFrame) / rateHz)} s`;
            return row(
              { key: `marker ${id}`, frame: startFrame, frames: (endFrame ?? startFrame) - startFrame },
              // Beside a time code there is no room for it.
              timeCode ? '' : length,
              null,
              <>
                <TypedField
                  label={messages.nameOf(name)}
                  isLabelled={false}
                  value={name}
                  format={(own) => own}
                  parse={(text) => text.trim() || undefined}
                  onCommit={(own) => own !== name && onRename(id, own)}
                  className="w-24 border-transparent text-left font-sans"
                />
                <button
                  type="button"
                  aria-label={messages.deleteMarker(name)}
                  onClick={() => onDrop(id)}
                  className="cursor-pointer rounded-sm px-1 text-mute hover:text-breach"
                >
                  ×
                </button>
              </>,
              length,
            );
          }),
          ...found.map((place) =>
            row(place, <span className="min-w-0 truncate font-sans">{place.name}</span>, place.detail),
          ),
        ]}
      </Panel>
    </Tabs.Root>
  );
}

function Panel({
  value,
  children,
  empty,
  head,
}: {
  value: PlaceList;
  children: ReactNode[];
  empty: string;
  head?: ReactNode;
}) {
  return (
    <Tabs.Content value={value} tabIndex={-1} className="min-h-0 grow overflow-y-auto data-[state=inactive]:hidden">
      {head}
      {children.length === 0 ? (
        <p className="py-2 text-sm text-mute">{empty}</p>
      ) : (
        <ul className="font-mono text-[13px]">{children}</ul>
      )}
    </Tabs.Content>
  );
}

function channelsText(channels: readonly number[], labels: readonly string[]): string {
  return channels.map((channel) => labels[channel] ?? '').join(' ');
}
