import type { LayoutId } from '../loudness/channel-layout';

/**
 * The kinds of file that are written, and what each can hold. Rates, channels and bit rates are those of the formats as
 * their encoders here take them: MPEG-1 and MPEG-2 audio (ISO/IEC 11172-3 and 13818-3), Opus (RFC 7845), Vorbis I, FLAC
 * (RFC 9639). All from memory.
 */
export const FILE_KINDS = ['wav', 'bw64', 'aiff', 'flac', 'mp3', 'm4a', 'opus', 'ogg', 'mp2'] as const;
export type FileKind = (typeof FILE_KINDS)[number];

/** How a lossy encoder spends its bits: as many for every frame, as many on the whole, or as many as it takes. */
export const RATE_MODES = ['constant', 'average', 'variable'] as const;
export type RateMode = (typeof RATE_MODES)[number];

export type DeliveryDepth = 16 | 24 | 32;

export interface KindFacts {
  name: string;
  /** The first is written; the others are understood too. */
  extensions: readonly [string, ...string[]];
  /** Depths that the file keeps its samples in, the usual one first; empty where it is lossy. 32 is float. */
  depths: readonly DeliveryDepth[];
  /** There is a place that players look into for how loud it is. */
  hasLoudnessTags: boolean;
  /** Null where any rate will do. */
  ratesHz: readonly number[] | null;
  mostChannels: number;
  /** Layouts of more than two channels that come out of its coder as they went in; any, where this is absent. */
  layouts?: readonly LayoutId[];
  /** The usual one first; empty where it is not lossy. */
  modes: readonly RateMode[];
  /** What can be chosen in kbit/s, for all channels together. Of variable rates, what the quality comes to in stereo. */
  bitRatesKbps: Readonly<Partial<Record<RateMode, readonly number[]>>>;
  /** Within what a bit rate must lie for so many channels, where not all of them will do. */
  bitRateLimits?: (channels: number, sampleRateHz: number) => { least: number; most: number };
}

const UP_TO_96K = [96_000, 88_200, 64_000, 48_000, 44_100, 32_000, 24_000, 22_050, 16_000, 12_000, 11_025, 8000];
const MPEG1_RATES = [48_000, 44_100, 32_000];
const MPEG2_RATES = [24_000, 22_050, 16_000];

export const KIND_FACTS: Readonly<Record<FileKind, KindFacts>> = {
  wav: pcm('WAV', ['wav'], 24),
  bw64: pcm('BW64', ['wav'], 24),
  aiff: pcm('AIFF', ['aiff', 'aif', 'aifc'], 24),
  flac: {
    name: 'FLAC',
    extensions: ['flac'],
    hasLoudnessTags: true,
    depths: [24, 16],
    ratesHz: null,
    mostChannels: 8,
    modes: [],
    bitRatesKbps: {},
  },
  mp3: {
    name: 'MP3',
    extensions: ['mp3'],
    hasLoudnessTags: true,
    depths: [],
    ratesHz: [...MPEG1_RATES, ...MPEG2_RATES],
    mostChannels: 2,
    modes: ['constant', 'variable'],
    bitRatesKbps: {
      constant: [320, 256, 224, 192, 160, 128, 112, 96, 80, 64, 56, 48, 40, 32],
      variable: [245, 225, 190, 175, 165, 130, 115, 100],
    },
    // MPEG-2 ends at 160.
    bitRateLimits: (_, sampleRateHz) => (sampleRateHz < 32_000 ? { least: 32, most: 160 } : { least: 32, most: 320 }),
  },
  m4a: {
    name: 'AAC',
    extensions: ['m4a'],
    hasLoudnessTags: true,
    depths: [],
    ratesHz: UP_TO_96K,
    mostChannels: 8,
    // Those that the format numbers: others have to be described, and not every decoder reads that.
    layouts: ['lcr', '5.0', '5.1', '7.1'],
    modes: ['average'],
    bitRatesKbps: { average: [512, 448, 384, 320, 256, 224, 192, 160, 128, 96, 64] },
    // No frame of 1024 samples holds more than 6144 bits a channel; the encoder is held well below.
    bitRateLimits: (channels, sampleRateHz) => ({
      least: 32 * channels,
      most: Math.min(512, Math.floor((5 * channels * sampleRateHz) / 1000)),
    }),
  },
  opus: {
    name: 'Opus',
    extensions: ['opus'],
    hasLoudnessTags: true,
    depths: [],
    ratesHz: [48_000, 24_000, 16_000, 12_000, 8000],
    mostChannels: 8,
    // FFmpeg's coder of 5.1 puts the centre of 5.0 and the sides of 6.1 into other channels, as another decoder shows.
    layouts: ['lcr', 'quad', '5.1', '7.1'],
    modes: ['variable', 'constant'],
    bitRatesKbps: {
      variable: [450, 320, 256, 192, 160, 128, 96, 64, 48, 32, 24],
      constant: [450, 320, 256, 192, 160, 128, 96, 64, 48, 32, 24],
    },
    bitRateLimits: (channels) => ({ least: 12 * channels, most: 255 * channels }),
  },
  ogg: {
    name: 'Vorbis',
    extensions: ['ogg', 'oga'],
    hasLoudnessTags: true,
    depths: [],
    ratesHz: UP_TO_96K,
    mostChannels: 8,
    layouts: ['lcr', 'quad', '5.0', '5.1', '6.1', '7.1'],
    modes: ['variable'],
    bitRatesKbps: { variable: [500, 320, 256, 224, 192, 160, 128, 112, 96, 80, 64] },
  },
  mp2: {
    name: 'MP2',
    extensions: ['mp2'],
    hasLoudnessTags: false,
    depths: [],
    ratesHz: [...MPEG1_RATES, ...MPEG2_RATES],
    mostChannels: 2,
    modes: ['constant'],
    bitRatesKbps: { constant: [384, 320, 256, 224, 192, 160, 128, 112, 96, 80, 64, 56, 48, 32] },
    bitRateLimits: (channels, sampleRateHz) => {
      if (sampleRateHz < 32_000) return { least: 32, most: 160 };
      return channels === 1 ? { least: 32, most: 192 } : { least: 64, most: 384 };
    },
  },
};

function pcm(name: string, extensions: KindFacts['extensions'], mostChannels: number): KindFacts {
  return {
    name,
    extensions,
    hasLoudnessTags: false,
    depths: [24, 16, 32],
    ratesHz: null,
    mostChannels,
    modes: [],
    bitRatesKbps: {},
  };
}

export function isLossy(kind: FileKind): boolean {
  return KIND_FACTS[kind].depths.length === 0;
}

/** The kind that a file's name asks for; undefined where it is none that is written. */
export function kindOfName(fileName: string): FileKind | undefined {
  const extension = /\.([^.]+)$/.exec(fileName)?.[1]?.toLowerCase() ?? '';
  return FILE_KINDS.find((kind) => KIND_FACTS[kind].extensions.includes(extension));
}

/** What a header says of a file, as far as its kind goes by it. */
interface StatedKind {
  container: string;
  codec: string;
  track: object | null;
}

/** The kind that a file is, whatever its depth; undefined where it is none that is written, or a track of several. */
export function fileKindOf({ container, codec, track }: StatedKind): FileKind | undefined {
  if (track) return undefined;
  switch (container) {
    case 'WAV':
    case 'RF64':
      return codec === 'PCM' ? 'wav' : undefined;
    case 'BW64':
      return 'bw64';
    case 'AIFF':
    case 'AIFF-C':
      return 'aiff';
    case 'FLAC':
      return 'flac';
    case 'MPEG audio':
      return codec === 'MP3' ? 'mp3' : codec === 'MP2' ? 'mp2' : undefined;
    case 'MPEG-4':
      return codec === 'AAC' ? 'm4a' : undefined;
    case 'Ogg':
      return codec === 'Opus' ? 'opus' : codec === 'Vorbis' ? 'ogg' : undefined;
    default:
      return undefined;
  }
}

/**
 * The kind that a file is, if it can be handed over as it is, with other tags: one that is written here, of a depth that is kept.
 *
 * @param file as its header states it; of one sound track
 */
export function kindOfFile(
  file: StatedKind & { bitDepth: number | null; sampleFormat: 'integer' | 'float' },
): FileKind | undefined {
  const kind = fileKindOf(file);
  if (kind === 'mp2') return undefined;
  if (kind !== 'wav' && kind !== 'bw64' && kind !== 'aiff') return kind;
  const { bitDepth, sampleFormat } = file;
  return bitDepth === 16 || bitDepth === 24 || (bitDepth === 32 && sampleFormat === 'float') ? kind : undefined;
}
