/** The season's job of the sound desk at Quillmere Dome, an invented planetarium. Every sound is made here. */

import type { RenderLayout } from '@/core/adm/render-layouts';
import type { SetRowInput } from '@/core/delivery/row';
import { type LineUpKind, type RecordSettings, USUAL_RECORD } from '@/core/lineup/line-up';
import type { DemoDefinition } from './definition';
import { ambience, dyingAway, music, normalise, type Planar, STEMS, speech, stem } from './synth';

export const DEMO_JOB = 'Quillmere Dome · Autumn sky season';

export interface DemoProgramme {
  title: string;
  fileName: string;
  sampleRateHz: number;
  channelMask: number;
  make(): Planar;
  /** What its channels are, where they are no loudspeakers. */
  definition?: DemoDefinition;
  /** Renderings of it that are taken in as well. */
  renderings?: { audioProgramme: string; layouts: readonly RenderLayout[] };
  /** What it belongs to. Where a group is left to its name, the page proposes it. */
  group?: string;
  /** Treatment set beforehand, so that the job opens in the middle of the work. */
  gain?: 'target' | 'ceiling';
  /** Rows of its hand-over sheet, and which of them are written beforehand. */
  deliveries?: readonly (SetRowInput & { isWritten: boolean })[];
  /** The template that these rows are kept as. */
  templateName?: string;
}

const STEM_SECONDS = 40;

/** Pieces of the record that the dome's shop sells, each with its key, and how loud it is mixed. */
const SHOP_PIECES = [
  ['First light', 1, 0.5, 0.3],
  ['Moonrise over the car park', 1.122, 0.9, 0.8],
  ['Saturn waltz', 0.841, 0.35, 0],
  ['The long exposure', 0.944, 0.28, 0.1],
  ['Meteor count', 1.189, 1.15, 1],
  ['Last bus home', 0.794, 0.6, 0.4],
] as const;

const CHAPTERS = [
  'Welcome to the dome',
  'Finding north',
  'The moon',
  'Wandering lights',
  'Why stars twinkle',
  'The milky way',
  'Dark nights',
  'Until next time',
] as const;

const two = (n: number) => String(n).padStart(2, '0');

const EVENING_PROGRAMMES: readonly DemoProgramme[] = [
  {
    title: 'Nightfall overture',
    fileName: 'nightfall_mix07.wav',
    sampleRateHz: 48_000,
    channelMask: 0x3,
    gain: 'target',
    deliveries: [
      {
        specId: 'ebu-r128',
        format: { kind: 'wav' },
        levelMode: { kind: 'as-set' },
        receiverId: 'network-desk',
        isWritten: true,
      },
      {
        specId: 'podcast-stereo',
        format: { kind: 'mp3', sampleRateHz: 44_100, mode: 'constant', bitRateKbps: 192 },
        levelMode: { kind: 'solved', maxReductionDb: 3 },
        receiverId: 'feed-folder',
        isWritten: true,
      },
      {
        specId: 'streaming-music',
        format: { kind: 'flac', bitDepth: 24 },
        levelMode: { kind: 'solved', maxReductionDb: 3 },
        isWritten: true,
      },
      {
        specId: 'audiobook-retail',
        format: { kind: 'mp3', arrangement: 'mono', mode: 'constant', bitRateKbps: 192 },
        levelMode: { kind: 'solved', maxReductionDb: 0 },
        receiverId: 'shop-store',
        isWritten: true,
      },
      {
        specId: 'cd-master',
        format: { kind: 'wav', sampleRateHz: 44_100, bitDepth: 16, dither: 'shaped' },
        levelMode: { kind: 'solved', maxReductionDb: 0 },
        isWritten: false,
      },
      {
        specId: 'premaster',
        format: { kind: 'wav', bitDepth: 32 },
        levelMode: { kind: 'solved', maxReductionDb: 0 },
        isWritten: false,
      },
    ],
    templateName: 'Season release',
    // Hot: mixed into saturation, as for a stream.
    make: () =>
      music(
        252.48,
        48_000,
        [
          { startSeconds: 0, level: 0.3, drums: 0 },
          { startSeconds: 75, level: 0.5, drums: 0.5 },
          { startSeconds: 105, level: 0.22, drums: 0 },
          { startSeconds: 126, level: 0.95, drums: 1 },
          { startSeconds: 181, level: 0.36, drums: 0.2 },
          { startSeconds: 203, level: 1.2, drums: 1.1 },
          { startSeconds: 240, level: 0.5, drums: 0 },
        ],
        20_26,
      ),
  },
  {
    title: 'Why is the sky dark?',
    fileName: 'episode_14_sky_dark_v2.wav',
    sampleRateHz: 44_100,
    channelMask: 0x4,
    gain: 'ceiling',
    // Quiet, uneven, and cut off in the middle of a word at its end.
    make: () => normalise([speech(370.3, 44_100, 14)], 0.42),
  },
  {
    title: 'Perseid bed',
    fileName: 'perseid_bed_96k.wav',
    sampleRateHz: 96_000,
    channelMask: 0x3,
    make: () => ambience(125, 96_000),
  },
  {
    title: 'Radio spot, 30 s',
    fileName: 'spot_autumn_30.wav',
    sampleRateHz: 48_000,
    channelMask: 0x3,
    // Normalised to full scale, and nothing worse.
    make: () => {
      const [left, right] = music(30, 48_000, [{ startSeconds: 0, level: 0.8, drums: 0.6 }], 30) as [
        Float32Array,
        Float32Array,
      ];
      const voice = speech(30, 48_000, 31);
      voice.forEach((x, i) => {
        left[i] = (left[i] ?? 0) * 0.5 + x * 1.4;
        right[i] = (right[i] ?? 0) * 0.5 + x * 1.4;
      });
      return normalise(dyingAway([left, right], 0.5, 48_000), 1 - 2 ** -23);
    },
  },
  {
    title: 'Closing titles',
    fileName: 'closing_titles_51.wav',
    sampleRateHz: 48_000,
    channelMask: 0x3f,
    // Clipped: written 3 dB too hot into integers.
    make: () => {
      const [left, right] = music(58, 48_000, [{ startSeconds: 0, level: 1.1, drums: 0.8 }], 51) as [
        Float32Array,
        Float32Array,
      ];
      const delayed = (samples: Float32Array, frames: number, gain: number) =>
        samples.map((_, i) => (i < frames ? 0 : (samples[i - frames] ?? 0) * gain));
      const centre = left.map((x, i) => 0.35 * (x + (right[i] ?? 0)));
      const lfe = left.map((x, i) => 0.12 * (x + (right[i] ?? 0)));
      return normalise([left, right, centre, lfe, delayed(left, 960, 0.5), delayed(right, 1200, 0.5)], 1.4);
    },
  },
];

const WALK_SECONDS = 48;

/** For the dome's own loudspeakers: a bed, a comet that passes overhead, and a narrator who can be left out. */
const IMMERSIVE: DemoProgramme = {
  title: 'Comet walk',
  fileName: 'comet_walk_adm.wav',
  sampleRateHz: 48_000,
  channelMask: 0,
  renderings: { audioProgramme: 'APR_1001', layouts: ['7.1.4', '5.1', 'stereo'] },
  definition: {
    seconds: WALK_SECONDS,
    programmes: [
      { name: 'Comet walk', language: 'en', objects: ['Night bed', 'Comet', 'Narrator'] },
      { name: 'Without narration', language: 'zxx', objects: ['Night bed', 'Comet'] },
    ],
    objects: [
      { name: 'Night bed', bed: ['M+030', 'M-030', 'M+000', 'LFE1', 'M+110', 'M-110'] },
      {
        name: 'Comet',
        path: [
          [0, 110, 0],
          [8, 80, 25],
          [18, 30, 60],
          [26, -30, 60],
          [36, -80, 25],
          [42, -110, 0],
        ],
      },
      { name: 'Narrator', path: [[0, 0, 10]] },
    ],
  },
  make: () => {
    const [left, right] = ambience(WALK_SECONDS, 48_000) as [Float32Array, Float32Array];
    const turned = (samples: Float32Array, gain: number) => samples.map((x) => gain * x);
    const centre = left.map((x, i) => 0.3 * (x + (right[i] ?? 0)));
    const [comet] = music(WALK_SECONDS, 48_000, [{ startSeconds: 0, level: 0.5, drums: 0 }], 8, 2) as [Float32Array];
    const voice = normalise([speech(WALK_SECONDS, 48_000, 88)], 0.5)[0] as Float32Array;
    return [left, right, centre, turned(centre, 0.4), turned(left, 0.7), turned(right, 0.7), turned(comet, 0.8), voice];
  },
};

const STEM_GROUP = 'Eclipse';
const stemOf = (name: (typeof STEMS)[number]) => stem(name, STEM_SECONDS, 48_000, 77);

const stems: DemoProgramme[] = [
  {
    title: 'Eclipse_mix',
    fileName: 'Eclipse_mix.wav',
    sampleRateHz: 48_000,
    channelMask: 0x3,
    group: STEM_GROUP,
    gain: 'target',
    make: () => summed(STEMS.map(stemOf)),
  },
  ...STEMS.map(
    (name): DemoProgramme => ({
      title: `Eclipse_${name}`,
      fileName: `Eclipse_${name}.wav`,
      sampleRateHz: 48_000,
      channelMask: 0x3,
      group: STEM_GROUP,
      // Somebody had muted the bass when the stems were exported.
      make: () => (name === 'bass' ? muted(stemOf(name), 12.4, 19) : stemOf(name)),
    }),
  ),
];

function summed(parts: readonly Planar[]): Planar {
  const [first, ...others] = parts as [Planar, ...Planar[]];
  return first.map((samples, c) => samples.map((x, n) => others.reduce((sum, part) => sum + (part[c]?.[n] ?? 0), x)));
}

function muted(channels: Planar, fromSeconds: number, toSeconds: number): Planar {
  return channels.map((samples) =>
    samples.map((x, n) => (n >= fromSeconds * 48_000 && n < toSeconds * 48_000 ? 0 : x)),
  );
}

const record = SHOP_PIECES.map(
  ([title, key, level, drums], i): DemoProgramme => ({
    title,
    fileName: `${two(i + 1)} ${title}.wav`,
    sampleRateHz: 48_000,
    channelMask: 0x3,
    group: 'Gift shop record',
    make: () => music(24 + 2 * i, 48_000, [{ startSeconds: 0, level, drums }], 100 + i, key),
  }),
);

const guide = CHAPTERS.map(
  (title, i): DemoProgramme => ({
    title,
    fileName: `guide_ch${two(i + 1)}.wav`,
    sampleRateHz: 48_000,
    channelMask: 0x4,
    group: 'Audio guide',
    // They begin in a pause of half a second or more, most of which is cut.
    make: () => normalise(dyingAway([speech(17 + i, 48_000, 200 + i).slice(19_200)], 0.3, 48_000), 0.5),
  }),
);

export const DEMO_PROGRAMMES = [...EVENING_PROGRAMMES, IMMERSIVE, ...stems, ...record, ...guide];

/** Groups that are made into line-ups. */
export const DEMO_LINE_UPS: readonly {
  group: string;
  kind: LineUpKind;
  specId: string;
  gapSeconds: number;
  record?: RecordSettings;
  firstIsrc?: string;
}[] = [
  {
    group: 'Gift shop record',
    kind: 'record',
    specId: 'streaming-music',
    gapSeconds: 2,
    record: { ...USUAL_RECORD, artist: 'Quillmere Dome Players', catalogNumber: '2012345000018', isForCd: true },
    firstIsrc: 'QD-1A2-26-00001',
  },
  { group: 'Audio guide', kind: 'book', specId: 'podcast-mono', gapSeconds: 0 },
  { group: STEM_GROUP, kind: 'stems', specId: 'ebu-r128', gapSeconds: 0 },
];
