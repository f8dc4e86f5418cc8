import type { Over } from '@/core/peak/overs';
import type { Spec } from '@/core/spec/spec';
import { formatGain, formatLevel, formatTime } from '@/core/units/format';
import { Card } from '@/ui/card';
import { classNames } from '@/ui/class-names';

/** Rows that are drawn; a mix that is over from end to end has thousands. */
const SHOWN = 200;

/** Stretches above the ceiling after the gain, the highest first; choosing one shows it on the trace. */
export function OversList({
  overs,
  spec,
  sampleRateHz,
  channelLabels,
  selected,
  onSelect,
}: {
  overs: readonly Over[];
  spec: Spec;
  sampleRateHz: number;
  channelLabels: readonly string[];
  selected: Over | undefined;
  onSelect: (over: Over | undefined) => void;
}) {
  const highestFirst = [...overs].sort((a, b) => b.excessDb - a.excessDb).slice(0, SHOWN);
  return (
    <Card
      title="Overs"
      remark={`${overs.length} above ${formatLevel(spec.peak.ceiling, 'dBTP')}`}
      className="flex min-h-0 min-w-0 flex-col"
    >
      {overs.length === 0 ? (
        <p className="py-2 text-sm text-mute">◆ Nothing stands above the ceiling.</p>
      ) : (
        <ul className="min-h-0 grow overflow-y-auto font-mono text-sm">
          {highestFirst.map((over) => (
            <li key={over.startBin} className="border-b border-hair last:border-0">
              <button
                type="button"
                aria-pressed={over === selected}
                onClick={() => onSelect(over === selected ? undefined : over)}
                className={classNames(
                  'flex w-full cursor-pointer justify-between gap-2 rounded-sm px-1 py-0.5 text-left hover:bg-stock-1',
                  over === selected && 'bg-breach-1',
                )}
              >
                <span>{formatTime(over.frame / sampleRateHz, { milliseconds: true })}</span>
                <span className="text-breach">{formatGain(over.excessDb)}</span>
                <span className="w-16 truncate text-right text-mute">{channelsText(over.channels, channelLabels)}</span>
              </button>
            </li>
          ))}
        </ul>
      )}
    </Card>
  );
}

function channelsText(channels: readonly number[], labels: readonly string[]): string {
  return channels.map((channel) => labels[channel] ?? '').join(' ');
}
