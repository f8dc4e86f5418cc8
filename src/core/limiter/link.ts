import type { ChannelLayout } from '../loudness/channel-layout';

/** Channels that a limiter turns down by one curve. */
export interface ChannelGroup {
  channels: number[];
  /** Groups of one domain may be linked; the low-frequency channels may have one of their own. */
  domain: number;
}

const MAINS = 0;
const LFE = 1;

/**
 * The groups that a link asks for: with all of it one is enough, with less each channel is one.
 *
 * @param link from 0 to 1
 * @param lfeChannels channels for low-frequency effects, where they are to go by themselves
 */
export function channelGroups(channels: number, link: number, lfeChannels: readonly number[] = []): ChannelGroup[] {
  const all = Array.from({ length: channels }, (_, channel) => channel);
  const domains = [
    { domain: MAINS, members: all.filter((channel) => !lfeChannels.includes(channel)) },
    { domain: LFE, members: all.filter((channel) => lfeChannels.includes(channel)) },
  ];
  return domains.flatMap(({ domain, members }) => {
    if (members.length === 0) return [];
    return link === 1 ? [{ channels: members, domain }] : members.map((channel) => ({ channels: [channel], domain }));
  });
}

/** The groups of a layout, whose low-frequency channels are those that weigh nothing in loudness. */
export function layoutGroups(
  { channels }: ChannelLayout,
  { link, lfe }: { link: number; lfe: 'linked' | 'apart' },
): ChannelGroup[] {
  const lfeChannels = channels.flatMap(({ weight }, channel) => (weight === 0 ? [channel] : []));
  return channelGroups(channels.length, link, lfe === 'apart' ? lfeChannels : []);
}
