'use client';

import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { useAct } from '@/features/common/use-act';
import { Choice } from '@/ui/choice';
import { setTrack } from './actions';
import { trackChoiceMessages as messages } from './messages';

/** Which sound track of a file with several is worked on. */
export function TrackChoice({ sha256, track }: { sha256: string; track: { number: number; of: number } }) {
  const { act, isBusy, error } = useAct(useChanged());
  const choose = (value: string) => void act(() => setTrack(sha256, Number(value)));
  return (
    <div className="mt-1.5" aria-busy={isBusy}>
      <Choice
        label={messages.soundTrack}
        value={String(track.number)}
        options={Array.from({ length: track.of }, (_, i) => ({
          value: String(i + 1),
          label: `track ${i + 1} of ${track.of}`,
        }))}
        onChange={choose}
      />
      <ErrorNotice error={error} />
    </div>
  );
}
