import * as z from 'zod';
import { dbToAmplitude } from '../../units/decibel';
import { defineStep } from '../step';

/**
 * What becomes of a programme's two channels. A mono sum is the mean of both (−6 dB: never louder than the louder one), their
 * sum at −3 dB (as loud as before where they have nothing in common), or their plain sum (0 dB).
 */
export const CHANNEL_MIXES = [
  'stereo',
  'swapped',
  'left',
  'right',
  'mono-0',
  'mono-3',
  'mono-6',
  'invert-left',
  'invert-right',
] as const;
export type ChannelMix = (typeof CHANNEL_MIXES)[number];
const mixSchema = z.enum(CHANNEL_MIXES);

const NEGATED = -1;
const SUMS: Readonly<Partial<Record<ChannelMix, number>>> = {
  'mono-0': 1,
  'mono-3': dbToAmplitude(-3),
  'mono-6': 0.5,
};

const DESCRIPTIONS: Readonly<Record<ChannelMix, string>> = {
  stereo: 'Stereo, unchanged',
  swapped: 'Left and right swapped',
  left: 'Left channel only',
  right: 'Right channel only',
  'mono-0': 'Mono sum at 0 dB',
  'mono-3': 'Mono sum at −3 dB',
  'mono-6': 'Mono sum at −6 dB',
  'invert-left': 'Polarity of the left channel inverted',
  'invert-right': 'Polarity of the right channel inverted',
};

export function describeMix(mix: ChannelMix): string {
  return DESCRIPTIONS[mix];
}

/** The mix that undoes one; null where two channels have become one. */
export function invertMix(mix: ChannelMix): ChannelMix | null {
  return mixedChannels(mix) === 2 ? mix : null;
}

/** How many channels come out of two. */
export function mixedChannels(mix: ChannelMix): 1 | 2 {
  return mix === 'left' || mix === 'right' || mix in SUMS ? 1 : 2;
}

/** @returns the channels that the mix makes of two: those given, changed in place where they have to be */
export function mixChannels([left, right]: readonly [Float32Array, Float32Array], mix: ChannelMix): Float32Array[] {
  switch (mix) {
    case 'stereo':
      return [left, right];
    case 'swapped':
      return [right, left];
    case 'left':
      return [left];
    case 'right':
      return [right];
    case 'mono-0':
    case 'mono-3':
    case 'mono-6': {
      const gain = SUMS[mix] as number;
      for (let n = 0; n < left.length; n++) left[n] = gain * ((left[n] as number) + (right[n] as number));
      return [left];
    }
    case 'invert-left':
      return [negated(left), right];
    case 'invert-right':
      return [left, negated(right)];
  }
}

function negated(samples: Float32Array): Float32Array {
  for (let n = 0; n < samples.length; n++) samples[n] = NEGATED * (samples[n] as number);
  return samples;
}

export const mixStep = defineStep({
  title: 'Channels',
  /** Of two channels; any other number stays as it is. */
  schema: mixSchema.default('stereo'),
  stage: 'preparation',
  describe: (mix) => (mix === 'stereo' ? null : describeMix(mix)),
  process: (mix, [left, right, ...others]) => {
    if (!left || !right || others.length > 0) return [left, right, ...others].flatMap((samples) => samples ?? []);
    return mixChannels([left, right], mix);
  },
  flags: [
    {
      name: 'channels',
      value: 'MIX',
      help: `of two channels: ${CHANNEL_MIXES.filter((mix) => mix !== 'stereo').join(', ')}`,
    },
  ],
  read: (flags) => flags.choice('channels', CHANNEL_MIXES, 'stereo'),
});
