import * as z from 'zod';
import { defineStep } from '../step';

/**
 * Takes a channel's mean off each of its samples, in place: the exact mean of a whole programme, so that nothing rings
 * and no bass note is touched, as a high-pass would.
 *
 * @param means of the channels, as fractions of full scale
 */
export function removeDc(channels: readonly Float32Array[], frames: number, means: readonly number[]): void {
  channels.forEach((samples, channel) => {
    const mean = means[channel] as number;
    for (let n = 0; n < frames; n++) samples[n] = (samples[n] as number) - mean;
  });
}

/** The means that put back what was taken off. */
export function invertRemoveDc(means: readonly number[]): number[] {
  return means.map((mean) => -mean);
}

export const removeDcStep = defineStep({
  title: 'DC',
  schema: z.boolean().default(false),
  stage: 'preparation',
  describe: (isOn) => (isOn ? 'DC offset removed' : null),
  flags: [{ name: 'remove-dc', help: 'remove the DC offset of each channel' }],
  read: (flags) => flags.isOn('remove-dc'),
});
