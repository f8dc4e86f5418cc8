import type { LayoutId } from '../loudness/channel-layout';

/** How a lossy encoder spends its bits: as many for every frame, as many on the whole, or as many as it takes. */
export const RATE_MODES = ['constant', 'average', 'variable'] as const;
export type RateMode = (typeof RATE_MODES)[number];

export type DeliveryDepth = 16 | 24 | 32;

/** What a header says of a file, as far as its format goes by it. */
export interface StatedFormat {
  container: string;
  codec: string;
}

/** What an encoder has to know. */
export interface EncoderSettings {
  mode: RateMode | null;
  bitRateKbps: number | null;
  sampleRateHz: number;
  /** Of what is encoded; null where it is silent, or nobody has measured it. */
  integratedLufs: number | null;
}

/** How FFmpeg is told to encode a format. */
interface Encoder {
  /** Of the samples that a lossy encoder takes; absent where it takes floats, or keeps those that it is given. */
  depth?: 16;
  /** The encoder, and the container that tells what it has put at the start and the end. */
  arguments(settings: EncoderSettings): string[];
}

export function bitRateArguments({ bitRateKbps }: EncoderSettings): string[] {
  return ['-b:a', `${bitRateKbps}k`];
}

/**
 * A format that files are written in, and all that is to be known of it. Rates, channels and bit rates are those of the format as its
 * encoder here takes them: MPEG-1 and MPEG-2 audio (ISO/IEC 11172-3 and 13818-3), AC-3 (ATSC A/52), Opus (RFC 7845), Vorbis I, FLAC
 * (RFC 9639). All from memory. */
export interface FileFormat {
  name: string;
  /** The first is written; the others are understood too. */
  extensions: readonly [string, ...string[]];
  /** MIME type. */
  mediaType: string;
  /** Whether a file that is taken in is one of these. */
  matches(stated: StatedFormat): boolean;
  /** Depths that the file keeps its samples in, the default first; empty where it is lossy. 32 is float. */
  depths: readonly DeliveryDepth[];
  /** Null where any rate will do. */
  ratesHz: readonly number[] | null;
  mostChannels: number;
  /** Layouts of more than two channels that come out of its encoder as they went in; any, where this is absent. */
  layouts?: readonly LayoutId[];
  /** The default first; empty where it is not lossy. */
  modes: readonly RateMode[];
  /** What can be chosen in kbit/s, for all channels together. Of variable rates, what the quality comes to in stereo. */
  bitRatesKbps: Readonly<Partial<Record<RateMode, readonly number[]>>>;
  /** Null where it is not lossy. */
  defaultKbps: number | null;
  /** Within what a bit rate must lie for so many channels, where not all of them will do. */
  bitRateLimits?: (channels: number, sampleRateHz: number) => { least: number; most: number };
  /** Who writes its tags: our own chunks, the tag library, or nobody, since it has no place for any. */
  tags: 'chunks' | 'library' | null;
  /** Where players look for how loud it is. */
  loudnessTags: 'replay-gain' | 'r128-gain' | null;
  /** Where marked places go: cues of its own, chapters of the container, or comments. */
  chapters: 'cues' | 'container' | 'comments' | null;
  /** It has a place for a cue sheet of its own. */
  hasCueSheet?: boolean;
  /** It has a place for an audio definition (ADM). */
  hasAdm: boolean;
  /** It states how many frames it holds, so that what an encoder put around them can be told. */
  statesLength: boolean;
  /** How many frames its encoder here puts ahead of the sound, where the file has no place to say so. */
  encoderDelayFrames?: number;
  /** It states how loud its dialogue is, by which decoders turn it down: it is measured before it is coded. */
  statesDialogueLevel?: boolean;
  /** Its decoder plays the last packet out, behind the frame at which the file states its end. */
  playsOutLastPacket?: boolean;
  /**
   * How much of what lies around a file that is cut from a longer one is coded along with it, so that both sides of a cut fit; its header
   * states that it is not played. Absent where a file of this kind has no place for that.
   */
  context?: (sampleRateHz: number) => { aheadFrames: number; behindFrames: number };
  /** How many bits a sample comes to in a lossless coder, by how loud the programme is; absent of PCM. */
  bitsPerSample?: (bitDepth: number, rmsDbfs: number | null) => number;
  /** Bytes beside the samples. */
  headerBytes: number;
  /** Null where the file is written by ourselves. */
  encoder: Encoder | null;
}

const PCM_HEADER_BYTES = 1200;

/** A container of plain samples. */
export function pcmFormat(
  own: Pick<FileFormat, 'name' | 'extensions' | 'mediaType' | 'matches' | 'tags' | 'hasAdm'>,
): FileFormat {
  return {
    ...own,
    depths: [24, 16, 32],
    ratesHz: null,
    mostChannels: 24,
    modes: [],
    bitRatesKbps: {},
    defaultKbps: null,
    loudnessTags: null,
    chapters: 'cues',
    statesLength: true,
    headerBytes: PCM_HEADER_BYTES,
    encoder: null,
  };
}

export const MPEG_RATES_HZ = [48_000, 44_100, 32_000, 24_000, 22_050, 16_000] as const;
export const RATES_TO_96K_HZ = [
  96_000, 88_200, 64_000, 48_000, 44_100, 32_000, 24_000, 22_050, 16_000, 12_000, 11_025, 8000,
] as const;
