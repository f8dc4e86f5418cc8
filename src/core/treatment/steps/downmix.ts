import * as z from 'zod';
import { AppError } from '../../errors/app-error';
import { LOUDSPEAKERS, type Loudspeaker, loudspeakerPosition } from '../../loudness/channel-layout';
import { DOWNMIXES, type DownmixTo } from '../downmixes';
import { downmixMessages as messages } from '../messages';
import { defineStep } from '../step';

/** Of more than two channels: what they become, and which loudspeaker each of them is for, in their order. */
const downmixSchema = z.object({
  to: z.enum(DOWNMIXES),
  from: z.array(z.enum(LOUDSPEAKERS)).min(3).max(24),
});
export type Downmix = z.infer<typeof downmixSchema>;

const MINUS_3_DB = Math.SQRT1_2;
/** Behind these, left and right, a loudspeaker is a surround. */
const FRONT_DEGREES = 60;
const HEIGHT_DEGREES = 30;

/**
 * How much of a loudspeaker's channel goes to the left and to the right of a stereo downmix.
 *
 * ITU-R BS.775, Annex 4 (from memory): left and right as they are; the centre −3 dB to both; surrounds −3 dB to their side; LFE left out.
 * Loudspeakers that BS.775 does not know are treated as the ones that it does (common practice, no source): all behind ±60° and all above
 * as surrounds, those in the middle of these −6 dB to both.
 */
export function stereoGains(loudspeaker: Loudspeaker): readonly [left: number, right: number] {
  const { azimuthDegrees, elevationDegrees, isLfe } = loudspeakerPosition(loudspeaker);
  if (isLfe) return [0, 0];
  const azimuth = Math.abs(azimuthDegrees);
  const isSurround = azimuth > FRONT_DEGREES || elevationDegrees > HEIGHT_DEGREES;
  const gain = isSurround ? MINUS_3_DB : 1;
  if (azimuth === 0 || azimuth === 180) return [MINUS_3_DB * gain, MINUS_3_DB * gain];
  return azimuthDegrees > 0 ? [gain, 0] : [0, gain];
}

/**
 * How much of a loudspeaker's channel goes to a mono downmix: the sum of the stereo one, −3 dB (ITU-R BS.775, Annex 4, from memory: left
 * and right −3 dB, the centre as it is, surrounds −6 dB).
 */
export function monoGain(loudspeaker: Loudspeaker): number {
  const [left, right] = stereoGains(loudspeaker);
  return MINUS_3_DB * (left + right);
}

/** How many channels are left of so many; those of a programme that the downmix is not of stay as they are. */
export function downmixedChannels(downmix: Downmix | null, channels: number): number {
  if (downmix?.from.length !== channels) return channels;
  return downmix.to === 'mono' ? 1 : 2;
}

/** The downmix, in channels of its own. */
export function downmixed({ to, from }: Downmix, planar: readonly Float32Array[]): Float32Array[] {
  const gains = from.map((loudspeaker) => (to === 'mono' ? [monoGain(loudspeaker)] : stereoGains(loudspeaker)));
  const frames = planar[0]?.length ?? 0;
  return Array.from({ length: to === 'mono' ? 1 : 2 }, (_, out) => {
    // Summed in double precision: the order of the channels is not heard.
    const sum = new Float64Array(frames);
    planar.forEach((samples, channel) => {
      const gain = gains[channel]?.[out] ?? 0;
      if (gain !== 0) for (let n = 0; n < frames; n++) sum[n] = (sum[n] as number) + gain * (samples[n] as number);
    });
    return Float32Array.from(sum);
  });
}

const NAMES: Readonly<Record<DownmixTo, string>> = { stereo: 'Stereo downmix', mono: 'Mono downmix' };

export function describeDownmix(to: DownmixTo): string {
  return `${NAMES[to]} (BS.775)`;
}

export const downmixStep = defineStep({
  title: 'Downmix',
  /** Of more than two channels, of those that it names; others stay as they are. */
  schema: downmixSchema.nullable().default(null),
  stage: 'preparation',
  describe: (downmix) => downmix && describeDownmix(downmix.to),
  process: (downmix, planar) => (downmix?.from.length === planar.length ? downmixed(downmix, planar) : planar),
  flags: [
    {
      name: 'downmix',
      value: 'TO',
      help: `of more than two channels, by ITU-R BS.775: ${DOWNMIXES.join(', ')}`,
    },
  ],
  read: (flags, { loudspeakers = [] }) => {
    const to = flags.choice('downmix', DOWNMIXES, null);
    if (to === null) return null;
    if (loudspeakers.length < 3) throw new AppError('usage', { reason: messages.needsMoreThanTwo });
    return { to, from: [...loudspeakers] };
  },
});
