'use client';

import { channelLayout, layoutNamed, loudspeakersOf } from '@/core/loudness/channel-layout';
import type { DownmixTo } from '@/core/treatment/downmixes';
import { describeDownmix } from '@/core/treatment/steps/downmix';
import { type ChannelMix, describeMix } from '@/core/treatment/steps/mix-channels';
import { Segments } from '@/ui/segments';
import { DownmixForecast } from './downmix-forecast';
import { channelsMessages as messages } from './messages';
import { definePanel, type PanelContext, type PanelState } from './panel';

export const channelsPanel = definePanel({
  name: messages.channels,
  steps: ['downmix', 'mix'],
  state: (context) => {
    const {
      treatment: { mix },
      format,
      onCommit,
    } = context;
    const isStereo = format.channels === 2;
    if (format.channels > 2) return surroundState(context);
    const layout = channelLayout(format.channels, format.channelMask);
    return {
      isOn: mix !== 'stereo',
      summary: isStereo ? describeMix(mix) : messages.surroundUnchanged(layout.name),
      onToggle: isStereo ? (isOn) => onCommit({ mix: isOn ? 'mono-3' : 'stereo' }) : null,
      editor: isStereo ? <ChannelsEditor mix={mix} onChange={(next) => onCommit({ mix: next })} /> : null,
    };
  },
});

/** Of more than two channels there is a downmix, where it is known what each is for. */
function surroundState({ treatment, treated, source, format, ceilingDbtp, onCommit }: PanelContext): PanelState {
  const { downmix } = treatment;
  const from = loudspeakersOf(layoutNamed(format.layout) ?? channelLayout(format.channels, format.channelMask));
  const choose = (to: DownmixTo | 'none') => onCommit({ downmix: from && to !== 'none' ? { to, from } : null });
  return {
    isOn: downmix !== null,
    summary: downmix ? describeDownmix(downmix.to) : messages.surroundUnchanged(format.layout),
    onToggle: from ? (isOn) => choose(isOn ? 'stereo' : 'none') : null,
    editor: from ? (
      <>
        <Segments
          label={messages.downmix}
          value={downmix?.to ?? 'none'}
          options={[{ value: 'none' as const, label: messages.unchanged }, ...DOWNMIX_NAMES]}
          onChange={choose}
        />
        <p className="max-w-80 text-xs text-mute">{messages.downmixHint}</p>
        <DownmixForecast programme={treated.source} {...{ source, format, treatment, from, ceilingDbtp }} />
      </>
    ) : null,
  };
}

const DOWNMIX_NAMES: readonly { value: DownmixTo; label: string }[] = [
  { value: 'stereo', label: messages.downmixToStereo },
  { value: 'mono', label: messages.downmixToMono },
];

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
