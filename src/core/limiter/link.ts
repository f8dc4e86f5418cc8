import { type ChannelLayout, type Loudspeaker, loudspeakerPosition, loudspeakersOf } from '../loudness/channel-layout';

/** How the channels of a limiter are linked. */
export interface Linking {
  /** How much they go down together: 1 all as the one that needs most, 0 each by itself. */
  link: number;
  /** Whether low-frequency channels go down with the others: with those in front, where groups are linked. */
  lfe: 'linked' | 'apart';
  /** `by-position`: front, surround and height channels are linked among themselves. Absent: all are. */
  linkGroups?: 'by-position';
}

/** Channels that a limiter turns down by one curve. */
export interface ChannelGroup {
  channels: number[];
  /** Groups of one domain may be linked; low-frequency channels may have one of their own, and so may each position. */
  domain: number;
}

/**
 * The groups that a link asks for: with all of it one is enough, with less each channel is one.
 *
 * @param link from 0 to 1
 * @param lfeChannels channels for low-frequency effects, where they are to go by themselves
 */
export function channelGroups(channels: number, link: number, lfeChannels: readonly number[] = []): ChannelGroup[] {
  const all = Array.from({ length: channels }, (_, channel) => channel);
  const mains = all.filter((channel) => !lfeChannels.includes(channel));
  return groupsOf([mains, all.filter((channel) => lfeChannels.includes(channel))], link);
}

/** The groups of a layout, whose low-frequency channels are those that weigh nothing in loudness. */
export function layoutGroups(layout: ChannelLayout, { link, lfe, linkGroups }: Linking): ChannelGroup[] {
  const { channels } = layout;
  const lfeChannels = channels.flatMap(({ weight }, channel) => (weight === 0 ? [channel] : []));
  const apart = lfe === 'apart' ? lfeChannels : [];
  const loudspeakers = linkGroups && loudspeakersOf(layout);
  if (!loudspeakers) return channelGroups(channels.length, link, apart);
  const positions = loudspeakers.map((own, channel) => (lfeChannels.includes(channel) ? 'front' : positionOf(own)));
  const mains = POSITIONS.map((position) =>
    positions.flatMap((own, channel) => (own === position && !apart.includes(channel) ? [channel] : [])),
  );
  return groupsOf([...mains, apart], link);
}

/** Whether a layout has channels in more than one position, so that it makes a difference which are linked. */
export function hasPositions(layout: ChannelLayout): boolean {
  return new Set(loudspeakersOf(layout)?.map(positionOf)).size > 1;
}

const POSITIONS = ['front', 'surround', 'height'] as const;
/** As wide as the screen reaches: ITU-R BS.2051 has its front loudspeakers within it (from memory). */
const FRONT_DEGREES = 60;

function positionOf(loudspeaker: Loudspeaker): (typeof POSITIONS)[number] {
  const { azimuthDegrees, elevationDegrees } = loudspeakerPosition(loudspeaker);
  if (elevationDegrees > 0) return 'height';
  return Math.abs(azimuthDegrees) <= FRONT_DEGREES ? 'front' : 'surround';
}

function groupsOf(domains: readonly (readonly number[])[], link: number): ChannelGroup[] {
  return domains
    .filter((members) => members.length > 0)
    .flatMap((members, domain) =>
      link === 1 ? [{ channels: [...members], domain }] : members.map((channel) => ({ channels: [channel], domain })),
    );
}
