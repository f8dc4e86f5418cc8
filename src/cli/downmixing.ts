/** Downmixes that are measured in place of their file. */
import { AppError } from '@/core/errors/app-error';
import { channelLayout, loudspeakersOf } from '@/core/loudness/channel-layout';
import type { DownmixTo } from '@/core/treatment/downmixes';
import { downmixMessages as messages } from '@/core/treatment/messages';
import { gainOnly } from '@/core/treatment/treatment';
import { type MeasuringOptions, measureAudio, withAudio } from './measuring';
import { withPrepared } from './preparing';

/**
 * Measures a downmix of a file, which is called what the file is but for its channels.
 *
 * @throws AppError `usage` where there is none to make
 */
export function measureDownmix(file: string, to: DownmixTo, options: MeasuringOptions) {
  return withAudio(
    file,
    (audio) => {
      const { format } = audio.header;
      const from = loudspeakersOf(channelLayout(format.channels, format.channelMask, options.layoutId));
      if (!from || from.length < 3) throw new AppError('usage', { reason: messages.needsMoreThanTwo });
      return withPrepared(audio, { treatment: { ...gainOnly(0), downmix: { to, from } } }, (mixed) => {
        const { channels } = mixed.header.format;
        return measureAudio({ ...mixed, origin: { ...(audio.origin ?? format), channels } }, options);
      });
    },
    { tracks: options.tracks },
  );
}
