'use client';

import { channelLayout } from '@/core/loudness/channel-layout';
import { type ChannelMix, describeMix } from '@/core/treatment/steps/mix-channels';
import { Segments } from '@/ui/segments';
import { channelsMessages as messages } from './messages';
import { definePanel } from './panel';

export const channelsPanel = definePanel({
  name: messages.channels,
  steps: ['mix'],
  state: ({ treatment: { mix }, format, onCommit }) => {
    const isStereo = format.channels === 2;
    const layout = channelLayout(format.channels, format.channelMask);
    return {
      isOn: mix !== 'stereo',
      summary: isStereo ? describeMix(mix) : `${layout.name}, unchanged`,
      onToggle: isStereo ? (isOn) => onCommit({ mix: isOn ? 'mono-3' : 'stereo' }) : null,
      editor: isStereo ? <ChannelsEditor mix={mix} onChange={(next) => onCommit({ mix: next })} /> : null,
    };
  },
});

const MIX_NAMES: readonly { value: ChannelMix; label: string }[] = [
  { value: 'stereo', label: messages.unchanged },
  { value: 'mono-3', label: messages.monoSum },
  { value: 'swapped', label: messages.swapped },
  { value: 'left', label: messages.leftOnly },
  { value: 'right', label: messages.rightOnly },
  { value: 'invert-left', label: messages.leftInverted },
  { value: 'invert-right', label: messages.rightInverted },
];

const SUM_NAMES: readonly { value: ChannelMix; label: string; detail: string }[] = [
  { value: 'mono-3', label: '−3 dB', detail: messages.equalPowerHint },
  { value: 'mono-6', label: '−6 dB', detail: messages.meanHint },
  { value: 'mono-0', label: '0 dB', detail: messages.plainSumHint },
];

function ChannelsEditor({ mix, onChange }: { mix: ChannelMix; onChange: (mix: ChannelMix) => void }) {
  const sum = SUM_NAMES.find(({ value }) => value === mix);
  return (
    <>
      <div role="radiogroup" aria-label={messages.channels} className="grid grid-cols-2 gap-1">
        {MIX_NAMES.map(({ value, label }) => {
          const isChosen = value === mix || (value === 'mono-3' && sum !== undefined);
          return (
            // biome-ignore lint/a11y/useSemanticElements: a button that looks like the others beside it.
            <button
              key={value}
              type="button"
              role="radio"
              aria-checked={isChosen}
              onClick={() => onChange(value)}
              className="cursor-pointer rounded-control border border-hair px-2 py-0.5 text-left text-[13px] hover:border-stock-3 aria-checked:border-slide-2 aria-checked:bg-slide-1"
            >
              {label}
            </button>
          );
        })}
      </div>
      {sum ? (
        <div className="flex flex-col gap-1">
          <p className="text-xs text-mute">{messages.levelOfTheSum}</p>
          <Segments label={messages.levelOfTheSum} value={sum.value} options={SUM_NAMES} onChange={onChange} />
          <p className="max-w-64 text-xs text-mute">{sum.detail}</p>
        </div>
      ) : null}
    </>
  );
}
