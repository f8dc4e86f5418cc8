import { channelLayout, type LayoutId, layoutNamed } from '../loudness/channel-layout';

/** What an audio definition is rendered to. */
export const RENDER_LAYOUTS = ['stereo', '5.1', '7.1', '5.1.4', '7.1.4'] as const satisfies readonly LayoutId[];
export type RenderLayout = (typeof RENDER_LAYOUTS)[number];

/** A loudspeaker by its name in ITU-R BS.2051, and where it nominally stands, in degrees. */
export interface Speaker {
  name: string;
  azimuthDegrees: number;
  elevationDegrees: number;
  isLfe: boolean;
}

/** By our names of channels: those of ITU-R BS.2051 of each layout differ where the surrounds stand (from memory). */
const NAMES: Readonly<Record<string, string>> = {
  L: 'M+030',
  R: 'M-030',
  C: 'M+000',
  LFE: 'LFE1',
  Ls: 'M+110',
  Rs: 'M-110',
  Lss: 'M+090',
  Rss: 'M-090',
  Lb: 'M+135',
  Rb: 'M-135',
};
const HEIGHTS: Readonly<Partial<Record<RenderLayout, Readonly<Record<string, string>>>>> = {
  '5.1.4': { Ltf: 'U+030', Rtf: 'U-030', Ltb: 'U+110', Rtb: 'U-110' },
  '7.1.4': { Ltf: 'U+045', Rtf: 'U-045', Ltb: 'U+135', Rtb: 'U-135' },
};
const LAYER_DEGREES: Readonly<Record<string, number>> = { M: 0, U: 30, L: -30 };
const LFE_AZIMUTH_DEGREES = 45;

/** The loudspeakers of a layout, in the order of its channels: systems A, B, D, I and J of ITU-R BS.2051 (from memory). */
export function speakersOf(layout: RenderLayout): Speaker[] {
  return channelsOf(layout).map((label) => {
    const name = NAMES[label] ?? HEIGHTS[layout]?.[label] ?? label;
    const isLfe = name === 'LFE1';
    return {
      name,
      azimuthDegrees: isLfe ? LFE_AZIMUTH_DEGREES : Number(name.slice(1)),
      elevationDegrees: LAYER_DEGREES[name.charAt(0)] ?? 0,
      isLfe,
    };
  });
}

function channelsOf(layout: RenderLayout): string[] {
  return (layoutNamed(layout) ?? channelLayout(2)).channels.map(({ label }) => label);
}
