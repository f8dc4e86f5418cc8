/**
 * Channel layouts and the loudness weight of each loudspeaker.
 *
 * Weights: ITU-R BS.1770-5, Annex 1 and 3 (from memory): 1.41 where |elevation| < 30° and 60° ≤ |azimuth| ≤ 120°,
 * otherwise 1.0; LFE is left out. Mask bits: WAVE_FORMAT_EXTENSIBLE's dwChannelMask (from memory). Angles of the
 * layouts: ITU-R BS.2051 (from memory).
 */
const SURROUND_WEIGHT = 1.41;

interface Speaker {
  azimuthDegrees: number;
  elevationDegrees: number;
  isLfe?: boolean;
}

const speaker = (azimuthDegrees: number, elevationDegrees = 0): Speaker => ({ azimuthDegrees, elevationDegrees });
const lfe: Speaker = { azimuthDegrees: 0, elevationDegrees: -30, isLfe: true };

const SPEAKERS = {
  mono: speaker(0),
  L: speaker(30),
  R: speaker(-30),
  C: speaker(0),
  LFE: lfe,
  LFE1: lfe,
  LFE2: lfe,
  Lw: speaker(60),
  Rw: speaker(-60),
  Lc: speaker(15),
  Rc: speaker(-15),
  Ls: speaker(110),
  Rs: speaker(-110),
  Lss: speaker(90),
  Rss: speaker(-90),
  Lb: speaker(135),
  Rb: speaker(-135),
  Cb: speaker(180),
  T: speaker(0, 90),
  Ltf: speaker(45, 45),
  Ctf: speaker(0, 45),
  Rtf: speaker(-45, 45),
  Lts: speaker(90, 45),
  Rts: speaker(-90, 45),
  Ltb: speaker(135, 45),
  Ctb: speaker(180, 45),
  Rtb: speaker(-135, 45),
  Lbf: speaker(45, -30),
  Cbf: speaker(0, -30),
  Rbf: speaker(-45, -30),
} as const satisfies Record<string, Speaker>;
type SpeakerLabel = keyof typeof SPEAKERS;

/** What loudspeakers are called, as channels are labelled. */
export type Loudspeaker = SpeakerLabel;
export const LOUDSPEAKERS = Object.keys(SPEAKERS) as [Loudspeaker, ...Loudspeaker[]];

/** Where a loudspeaker stands: degrees to the left from the front, and above the ears. */
export function loudspeakerPosition(loudspeaker: Loudspeaker): Readonly<Speaker> {
  return SPEAKERS[loudspeaker];
}

/** The loudspeakers of a layout's channels, in their order; undefined where nobody knows what some of them are for. */
export function loudspeakersOf({ channels }: ChannelLayout): Loudspeaker[] | undefined {
  const known = channels.flatMap(({ label }) => LOUDSPEAKERS.filter((own) => own === label));
  return known.length === channels.length ? known : undefined;
}

interface LayoutDefinition {
  name: string;
  channels: readonly SpeakerLabel[];
  /** As a channel mask; 0 where a mask can't name its loudspeakers. */
  mask: number;
  /** Other masks that mean the same. */
  alsoMasks?: readonly number[];
}

const LAYOUTS = {
  mono: { name: 'mono', channels: ['mono'], mask: 0x4, alsoMasks: [0x1, 0x2] },
  stereo: { name: 'stereo', channels: ['L', 'R'], mask: 0x3 },
  lcr: { name: 'LCR', channels: ['L', 'R', 'C'], mask: 0x7 },
  quad: { name: 'quad', channels: ['L', 'R', 'Ls', 'Rs'], mask: 0x33, alsoMasks: [0x603] },
  '5.0': { name: '5.0', channels: ['L', 'R', 'C', 'Ls', 'Rs'], mask: 0x37, alsoMasks: [0x607] },
  '5.1': { name: '5.1', channels: ['L', 'R', 'C', 'LFE', 'Ls', 'Rs'], mask: 0x3f, alsoMasks: [0x60f] },
  // The orders of film and of some encoders differ from that of a channel mask (common practice, no source).
  '5.1-film': { name: '5.1 in film order', channels: ['L', 'C', 'R', 'Ls', 'Rs', 'LFE'], mask: 0 },
  '5.1-centre-last': { name: '5.1, centre and LFE last', channels: ['L', 'R', 'Ls', 'Rs', 'C', 'LFE'], mask: 0 },
  '6.1': { name: '6.1', channels: ['L', 'R', 'C', 'LFE', 'Cb', 'Lss', 'Rss'], mask: 0x70f },
  '7.1': { name: '7.1', channels: ['L', 'R', 'C', 'LFE', 'Lb', 'Rb', 'Lss', 'Rss'], mask: 0x63f },
  '7.1-film': { name: '7.1 in film order', channels: ['L', 'C', 'R', 'Lss', 'Rss', 'Lb', 'Rb', 'LFE'], mask: 0 },
  '7.1.2': {
    name: '7.1.2',
    channels: ['L', 'R', 'C', 'LFE', 'Lb', 'Rb', 'Lss', 'Rss', 'Lts', 'Rts'],
    mask: 0,
  },
  '5.1.4': {
    name: '5.1.4',
    channels: ['L', 'R', 'C', 'LFE', 'Ls', 'Rs', 'Ltf', 'Rtf', 'Ltb', 'Rtb'],
    mask: 0x2d03f,
    alsoMasks: [0x2d60f],
  },
  '7.1.4': {
    name: '7.1.4',
    channels: ['L', 'R', 'C', 'LFE', 'Lb', 'Rb', 'Lss', 'Rss', 'Ltf', 'Rtf', 'Ltb', 'Rtb'],
    mask: 0x2d63f,
  },
  // In the order of SMPTE ST 2036-2 (from memory).
  '22.2': {
    name: '22.2',
    // biome-ignore format: the three layers and the two low-frequency channels read best in the standard's own order.
    channels: [
      'Lw', 'Rw', 'C', 'LFE1', 'Lb', 'Rb', 'L', 'R', 'Cb', 'LFE2', 'Lss', 'Rss',
      'Ltf', 'Rtf', 'Ctf', 'T', 'Ltb', 'Rtb', 'Lts', 'Rts', 'Ctb', 'Cbf', 'Lbf', 'Rbf',
    ],
    mask: 0,
  },
} as const satisfies Record<string, LayoutDefinition>;

export type LayoutId = keyof typeof LAYOUTS;
export const LAYOUT_IDS = Object.keys(LAYOUTS) as LayoutId[];
const DEFINITIONS: Readonly<Record<LayoutId, LayoutDefinition>> = LAYOUTS;

/** Layouts that are supposed where a file states none, by their number of channels. */
const SUPPOSED: Readonly<Record<number, LayoutId>> = {
  1: 'mono',
  2: 'stereo',
  3: 'lcr',
  4: 'quad',
  5: '5.0',
  6: '5.1',
  7: '6.1',
  8: '7.1',
  10: '5.1.4',
  12: '7.1.4',
  24: '22.2',
};

/** The loudspeakers of the mask's bits, in their order. Back ones stand at ±110° unless there are side ones as well. */
const MASK_SPEAKERS: readonly SpeakerLabel[] = [
  ...(['L', 'R', 'C', 'LFE', 'Ls', 'Rs', 'Lc', 'Rc', 'Cb', 'Lss', 'Rss'] as const),
  ...(['T', 'Ltf', 'Ctf', 'Rtf', 'Ltb', 'Ctb', 'Rtb'] as const),
];
const BACK_BITS = 0x30;
const SIDE_BITS = 0x600;

export interface Channel {
  label: string;
  /** Weight of this channel's mean square in loudness; 0 for LFE. */
  weight: number;
}

export interface ChannelLayout {
  /** Null of a layout that has no name of its own. */
  id: LayoutId | null;
  name: string;
  /** The loudspeakers as a channel mask, stated or supposed; 0 where no mask can name them. */
  mask: number;
  channels: readonly Channel[];
}

/** The layouts that so many channels can be. */
export function layoutsOf(channelCount: number): { id: LayoutId; name: string }[] {
  return LAYOUT_IDS.filter((id) => LAYOUTS[id].channels.length === channelCount).map((id) => ({
    id,
    name: LAYOUTS[id].name,
  }));
}

/**
 * The layout of so many channels (1 to 24): the one chosen by hand; or by the file's channel mask where it names enough
 * loudspeakers; or the usual one for that number of channels. Channels that nobody knows a place for weigh 1.
 *
 * @param chosen a layout's id; it is passed over where its number of channels differs
 */
export function channelLayout(channelCount: number, channelMask = 0, chosen?: string): ChannelLayout {
  const byHand = LAYOUT_IDS.find((id) => id === chosen && LAYOUTS[id].channels.length === channelCount);
  if (byHand) return layoutById(byHand);
  const mask = firstBits(channelMask, channelCount);
  if (mask !== undefined) return layoutByMask(mask, channelCount);
  const supposed = SUPPOSED[channelCount];
  if (supposed) return layoutById(supposed);
  return {
    id: null,
    name: `${channelCount} channels`,
    mask: 0,
    channels: Array.from({ length: channelCount }, (_, i) => ({ label: `${i + 1}`, weight: 1 })),
  };
}

function layoutById(id: LayoutId): ChannelLayout {
  const { name, mask, channels } = DEFINITIONS[id];
  return { id, name, mask, channels: channels.map(channelOf) };
}

function layoutByMask(mask: number, channelCount: number): ChannelLayout {
  const known = LAYOUT_IDS.find((id) => {
    const { mask: own, alsoMasks = [] } = DEFINITIONS[id];
    return (own !== 0 && own === mask) || alsoMasks.includes(mask);
  });
  if (known) return { ...layoutById(known), mask };
  const hasSides = (mask & SIDE_BITS) !== 0;
  const hasBacks = (mask & BACK_BITS) !== 0;
  const channels = MASK_SPEAKERS.flatMap((label, bit) =>
    (mask & (1 << bit)) === 0 ? [] : [placed(label, hasSides, hasBacks)],
  );
  return { id: null, name: `${channelCount} channels`, mask, channels: channels.map(channelOf) };
}

/** The layout of a name; undefined where none that is known has it. */
export function layoutNamed(name: string): ChannelLayout | undefined {
  const id = LAYOUT_IDS.find((own) => DEFINITIONS[own].name === name);
  return id && layoutById(id);
}

/** How channels are written: as which layout, and from which of the source's channels each is taken. */
export interface WrittenOrder {
  layout: ChannelLayout;
  /** For each channel of the file, its place in the source. */
  from: readonly number[];
}

/**
 * The order in which a layout's channels are written, whatever the source's own: that of the channel mask, where a mask can name
 * the same loudspeakers. Files and coders go by it, and a file that says nothing is taken to have it.
 */
export function writtenOrder(layout: ChannelLayout): WrittenOrder {
  const asItIs = { layout, from: layout.channels.map((_, i) => i) };
  if (layout.mask !== 0) return asItIs;
  const labels = layout.channels.map(({ label }) => label);
  const id = LAYOUT_IDS.find((own) => {
    const { mask, channels } = DEFINITIONS[own];
    return mask !== 0 && channels.length === labels.length && channels.every((label) => labels.includes(label));
  });
  if (!id) return asItIs;
  return { layout: layoutById(id), from: DEFINITIONS[id].channels.map((label) => labels.indexOf(label)) };
}

/** The layout that a file has which is written from channels of a layout chosen by hand; null where none was, or it has others. */
export function writtenLayoutId(channelCount: number, chosen: string | null): LayoutId | null {
  const layout = channelLayout(channelCount, 0, chosen ?? undefined);
  return chosen !== null && layout.id === chosen ? writtenOrder(layout).layout.id : null;
}

/** The mask by which coders know a layout: surrounds that are the only pair stand behind, whichever bits the source gives them. */
export function codingMask({ id, mask }: ChannelLayout): number {
  return id === null ? mask : DEFINITIONS[id].mask;
}

/** Where a pair of surrounds is the only one it stands at ±110°, whichever bits name it. */
function placed(label: SpeakerLabel, hasSides: boolean, hasBacks: boolean): SpeakerLabel {
  if (label === 'Ls' && hasSides) return 'Lb';
  if (label === 'Rs' && hasSides) return 'Rb';
  if (label === 'Lss' && !hasBacks) return 'Ls';
  if (label === 'Rss' && !hasBacks) return 'Rs';
  return label;
}

function channelOf(label: SpeakerLabel): Channel {
  const { azimuthDegrees, elevationDegrees, isLfe }: Speaker = SPEAKERS[label];
  if (isLfe) return { label, weight: 0 };
  const azimuth = Math.abs(azimuthDegrees);
  const isBeside = Math.abs(elevationDegrees) < 30 && azimuth >= 60 && azimuth <= 120;
  return { label, weight: isBeside ? SURROUND_WEIGHT : 1 };
}

/** The lowest `count` known bits of the mask, or undefined where it names fewer loudspeakers than there are channels. */
function firstBits(mask: number, count: number): number | undefined {
  let kept = 0;
  let found = 0;
  for (let bit = 0; bit < MASK_SPEAKERS.length && found < count; bit++) {
    if (mask & (1 << bit)) {
      kept |= 1 << bit;
      found++;
    }
  }
  return found === count && count > 0 ? kept : undefined;
}
