import { channelLayout, layoutsOf } from '@/core/loudness/channel-layout';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { useAct } from '@/features/common/use-act';
import type { AudioFormat } from '@/formats/audio-format';
import { Choice } from '@/ui/choice';
import { setLayout } from './actions';
import { layoutChoiceMessages as messages } from './messages';

/** Value of the choice that leaves the layout to the file. */
const AS_STATED = 'as-stated';

/** Which loudspeaker each channel is for, where a file of so many channels can be read in more than one way. */
export function LayoutChoice({
  format,
  layoutId,
  sha256,
}: {
  format: AudioFormat;
  layoutId: string | null;
  sha256: string;
}) {
  const { act, isBusy, error } = useAct(useChanged());
  const layouts = layoutsOf(format.channels);
  if (layouts.length < 2) return null;
  const stated = channelLayout(format.channels, format.channelMask).name;
  const choose = (value: string) => void act(() => setLayout(sha256, value === AS_STATED ? null : value));
  return (
    <div className="mt-3 flex items-center gap-3 border-t border-hair pt-3">
      <span className="text-mute">{isBusy ? messages.measuringAgain : messages.channelsReadAs}</span>
      <Choice
        label={messages.channelLayout}
        value={layoutId ?? AS_STATED}
        options={[
          { value: AS_STATED, label: messages.asTheFileHasIt(stated) },
          ...layouts.map(({ id, name }) => ({
            value: id,
            label: name,
            detail: channelLayout(format.channels, 0, id)
              .channels.map(({ label }) => label)
              .join(' '),
          })),
        ]}
        onChange={choose}
      />
      <ErrorNotice error={error} />
    </div>
  );
}
