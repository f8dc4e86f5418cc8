/**
 * Channel layouts and the loudness weight of each loudspeaker.
 *
 * Weights: ITU-R BS.1770-5, Annex 1 and 3 (from memory): 1.41 where |elevation| < 30° and 60° ≤ |azimuth| ≤ 120°,
 * otherwise 1.0; LFE is left out. Mask bits: WAVE_FORMAT_EXTENSIBLE's dwChannelMask (from memory).
 */
const SURROUND_WEIGHT = 1.41;

interface Speaker {
  label: string;
  azimuthDegrees: number;
  elevationDegrees: number;
}

/** In the order of the mask's bits. Back loudspeakers stand at ±110° unless the layout has side loudspeakers as well. */
const SPEAKERS: readonly Speaker[] = [
  { label: 'L', azimuthDegrees: 30, elevationDegrees: 0 },
  { label: 'R', azimuthDegrees: -30, elevationDegrees: 0 },
  { label: 'C', azimuthDegrees: 0, elevationDegrees: 0 },
  { label: 'LFE', azimuthDegrees: 0, elevationDegrees: -30 },
  { label: 'Lb', azimuthDegrees: 110, elevationDegrees: 0 },
  { label: 'Rb', azimuthDegrees: -110, elevationDegrees: 0 },
  { label: 'Lc', azimuthDegrees: 15, elevationDegrees: 0 },
  { label: 'Rc', azimuthDegrees: -15, elevationDegrees: 0 },
  { label: 'Cb', azimuthDegrees: 180, elevationDegrees: 0 },
  { label: 'Ls', azimuthDegrees: 90, elevationDegrees: 0 },
  { label: 'Rs', azimuthDegrees: -90, elevationDegrees: 0 },
  { label: 'T', azimuthDegrees: 0, elevationDegrees: 90 },
  { label: 'Ltf', azimuthDegrees: 45, elevationDegrees: 45 },
  { label: 'Ctf', azimuthDegrees: 0, elevationDegrees: 45 },
  { label: 'Rtf', azimuthDegrees: -45, elevationDegrees: 45 },
  { label: 'Ltb', azimuthDegrees: 135, elevationDegrees: 45 },
  { label: 'Ctb', azimuthDegrees: 180, elevationDegrees: 45 },
  { label: 'Rtb', azimuthDegrees: -135, elevationDegrees: 45 },
];

const BACK_BITS = 0x30;
const SIDE_BITS = 0x600;
/** Back loudspeakers beside side loudspeakers (7.1) stand further behind the listener. */
const FAR_BACK_DEGREES = 142.5;

const DEFAULT_MASKS = [0, 0x4, 0x3, 0x7, 0x33, 0x37, 0x3f, 0x70f, 0x63f] as const;

const NAMES: Readonly<Record<number, string>> = {
  4: 'mono',
  3: 'stereo',
  7: '3.0',
  51: 'quad',
  1539: 'quad',
  55: '5.0',
  1543: '5.0',
  63: '5.1',
  1551: '5.1',
  1807: '6.1',
  1599: '7.1',
};

export interface Channel {
  label: string;
  /** Weight of this channel's mean square in loudness; 0 for LFE. */
  weight: number;
}

export interface ChannelLayout {
  name: string;
  /** The loudspeakers as a channel mask, stated or supposed. */
  mask: number;
  channels: readonly Channel[];
}

/**
 * The layout of so many channels (1 to 8), by the file's channel mask where it names enough loudspeakers,
 * otherwise by the usual order for that number of channels.
 */
export function channelLayout(channelCount: number, channelMask = 0): ChannelLayout {
  const stated = firstBits(channelMask, channelCount);
  const mask = stated ?? DEFAULT_MASKS[channelCount] ?? 0;
  const hasSides = (mask & SIDE_BITS) !== 0;
  const channels: Channel[] = [];
  for (let bit = 0; bit < SPEAKERS.length; bit++) {
    const speaker = SPEAKERS[bit];
    if (!speaker || (mask & (1 << bit)) === 0) continue;
    const isFarBack = hasSides && (BACK_BITS & (1 << bit)) !== 0;
    const azimuthDegrees = isFarBack ? FAR_BACK_DEGREES : speaker.azimuthDegrees;
    const label = channelCount === 1 ? 'mono' : speaker.label;
    channels.push({ label, weight: weightAt({ ...speaker, azimuthDegrees }) });
  }
  return { name: NAMES[mask] ?? `${channelCount} channels`, mask, channels };
}

function weightAt({ label, azimuthDegrees, elevationDegrees }: Speaker): number {
  if (label === 'LFE') return 0;
  const azimuth = Math.abs(azimuthDegrees);
  return Math.abs(elevationDegrees) < 30 && azimuth >= 60 && azimuth <= 120 ? SURROUND_WEIGHT : 1;
}

/** The lowest `count` known bits of the mask, or undefined where it names fewer loudspeakers than there are channels. */
function firstBits(mask: number, count: number): number | undefined {
  let kept = 0;
  let found = 0;
  for (let bit = 0; bit < SPEAKERS.length && found < count; bit++) {
    if (mask & (1 << bit)) {
      kept |= 1 << bit;
      found++;
    }
  }
  return found === count ? kept : undefined;
}
