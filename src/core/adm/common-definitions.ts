import type { AdmChannel } from './model';

/**
 * Channels of the common definitions (ITU-R BS.2094, from memory) that files refer to without describing them: number, loudspeaker by ITU-R BS.2051,
 * azimuth and elevation in degrees. Others are told as unknown.
 */
const CHANNELS: readonly (readonly [number: number, label: string, azimuth: number, elevation: number])[] = [
  [0x01, 'M+030', 30, 0],
  [0x02, 'M-030', -30, 0],
  [0x03, 'M+000', 0, 0],
  [0x04, 'LFE1', 45, -30],
  [0x05, 'M+110', 110, 0],
  [0x06, 'M-110', -110, 0],
  [0x09, 'M+180', 180, 0],
  [0x0a, 'M+090', 90, 0],
  [0x0b, 'M-090', -90, 0],
  [0x0c, 'T+000', 0, 90],
  [0x1c, 'M+135', 135, 0],
  [0x1d, 'M-135', -135, 0],
  [0x1e, 'U+135', 135, 30],
  [0x1f, 'U-135', -135, 30],
  [0x22, 'U+045', 45, 30],
  [0x23, 'U-045', -45, 30],
];

const LFE_HZ = 120;
const at = (value: number) => ({ value, least: value, most: value });

/** The channel of a common definition, by its ID such as `AC_00010001`; undefined of any other. */
export function commonChannel(id: string): AdmChannel | undefined {
  const [, digits] = /^AC_0001([0-9a-f]{4})$/i.exec(id) ?? [];
  const number = Number.parseInt(digits ?? '', 16);
  const found = CHANNELS.find(([own]) => own === number);
  if (!found) return undefined;
  const [, label, azimuth, elevation] = found;
  return {
    id,
    name: label,
    type: 'DirectSpeakers',
    lowPassHz: label === 'LFE1' ? LFE_HZ : null,
    blocks: [
      {
        startSeconds: null,
        durationSeconds: null,
        gain: 1,
        azimuth: at(azimuth),
        elevation: at(elevation),
        distance: at(1),
        speakerLabels: [label],
        jumpSeconds: null,
        unsupported: [],
      },
    ],
  };
}
