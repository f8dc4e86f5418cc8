import { downmixedChannels } from './steps/downmix';
import { mixedChannels } from './steps/mix-channels';
import type { Preparation } from './treatment';

/** How many channels a treatment leaves of so many. */
export function treatedChannels({ downmix, mix }: Pick<Preparation, 'downmix' | 'mix'>, channels: number): number {
  const left = downmixedChannels(downmix, channels);
  return left === 2 ? mixedChannels(mix) : left;
}
