import { ToggleGroup } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import type { Passage, Readings } from '@/core/loudness/readings';
import type { Over } from '@/core/peak/overs';
import type { Spec } from '@/core/spec/spec';
import { formatGain, formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { Card } from '@/ui/card';
import { classNames } from '@/ui/class-names';

/** Rows that are drawn; a mix that is over from end to end has thousands. */
const SHOWN = 200;

const LISTS = [
  { value: 'overs', label: 'Overs' },
  { value: '3', label: 'Loudest 3 s' },
  { value: '10', label: '10 s' },
] as const;
type ListName = (typeof LISTS)[number]['value'];

/** Something in the programme that is shown on the trace. */
export interface Place {
  key: string;
  /** Where it stands, or begins. */
  frame: number;
  /** How long it is; 0 for a peak. */
  frames: number;
}

export const placeOfOver = (over: Over): Place => ({ key: `over ${over.startBin}`, frame: over.frame, frames: 0 });

/** Where to listen first: stretches above the ceiling, highest first, or the loudest passages. One is shown on the trace. */
export function Places({
  overs,
  treated,
  spec,
  sampleRateHz,
  channelLabels,
  selected,
  onSelect,
}: {
  overs: readonly Over[];
  /** The programme's readings after the gain. */
  treated: Readings;
  spec: Spec;
  sampleRateHz: number;
  channelLabels: readonly string[];
  selected: Place | undefined;
  onSelect: (place: Place | undefined) => void;
}) {
  const [list, setList] = useState<ListName>('overs');
  const row = (place: Place, level: ReactNode, detail: ReactNode) => (
    <li key={place.key} className="border-b border-hair last:border-0">
      <button
        type="button"
        aria-pressed={place.key === selected?.key}
        onClick={() => onSelect(place.key === selected?.key ? undefined : place)}
        className={classNames(
          'flex w-full cursor-pointer justify-between gap-2 rounded-sm px-1 py-0.5 text-left hover:bg-stock-1',
          place.key === selected?.key && (place.frames === 0 ? 'bg-breach-1' : 'bg-stock-2'),
        )}
      >
        <span>{formatTime(place.frame / sampleRateHz, { milliseconds: true })}</span>
        {level}
        <span className="w-16 truncate text-right text-mute">{detail}</span>
      </button>
    </li>
  );
  return (
    <Card
      title={
        <ToggleGroup.Root
          type="single"
          value={list}
          aria-label="Places"
          onValueChange={(value) => {
            const chosen = LISTS.find((entry) => entry.value === value);
            if (chosen) setList(chosen.value);
          }}
          className="flex gap-2.5 whitespace-nowrap"
        >
          {LISTS.map(({ value, label }) => (
            <ToggleGroup.Item
              key={value}
              value={value}
              className="cursor-pointer rounded-sm border-b-2 border-transparent font-semibold text-mute data-[state=on]:border-slide-ink data-[state=on]:text-ink"
            >
              {label}
            </ToggleGroup.Item>
          ))}
        </ToggleGroup.Root>
      }
      remark={
        <span className="whitespace-nowrap" title={formatLevel(spec.peak.ceiling, 'dBTP')}>
          {list === 'overs' ? `${overs.length} above ${formatNumber(spec.peak.ceiling)}` : 'after the gain'}
        </span>
      }
      className="flex min-h-0 min-w-0 flex-col"
    >
      {list === 'overs' ? (
        <List empty="◆ Nothing stands above the ceiling.">
          {[...overs]
            .sort((a, b) => b.excessDb - a.excessDb)
            .slice(0, SHOWN)
            .map((over) =>
              row(
                placeOfOver(over),
                <span className="text-breach">{formatGain(over.excessDb)}</span>,
                channelsText(over.channels, channelLabels),
              ),
            )}
        </List>
      ) : (
        <List empty={`◌ Shorter than ${list} s, or silent.`}>
          {(list === '3' ? treated.loudest3s : treated.loudest10s).map((passage, rank) =>
            row(
              placeOfPassage(passage, Number(list) * sampleRateHz),
              <span>{formatLevel(passage.lufs, 'LUFS')}</span>,
              `${rank + 1}.`,
            ),
          )}
        </List>
      )}
    </Card>
  );
}

function List({ children, empty }: { children: ReactNode[]; empty: string }) {
  if (children.length === 0) return <p className="py-2 text-sm text-mute">{empty}</p>;
  return <ul className="min-h-0 grow overflow-y-auto font-mono text-sm">{children}</ul>;
}

function placeOfPassage({ startFrame }: Passage, frames: number): Place {
  return { key: `passage ${startFrame} ${frames}`, frame: startFrame, frames };
}

function channelsText(channels: readonly number[], labels: readonly string[]): string {
  return channels.map((channel) => labels[channel] ?? '').join(' ');
}
