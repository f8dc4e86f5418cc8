import type { FileKind, RateMode } from '../file-formats/file-formats';
import { fileKindOf } from '../file-formats/file-formats';
import type { Tags } from '../file-formats/tags';
import type { Edges } from '../loudness/edges';
import type { Readings } from '../loudness/readings';
import { factsMessages as messages } from './messages';

/** Something that can't be told, and why, in words that go behind "not assessed:". */
export interface Unknown {
  unknown: string;
}

/** Something that is known, or the reason why it isn't. */
export type Fact<T> = T | Unknown;

export function unknown(why: string): Unknown {
  return { unknown: why };
}

export function isUnknown<T>(fact: Fact<T>): fact is Unknown {
  return typeof fact === 'object' && fact !== null && 'unknown' in fact;
}

/** How a file was made from its source, as far as a premaster asks. */
export interface Making {
  isLimited: boolean;
  isDithered: Fact<boolean>;
  sampleRateHz: number;
  bitDepth: Fact<number | null>;
  isTailWhole: boolean;
  source: { sampleRateHz: number; bitDepth: number | null; sampleFormat: 'integer' | 'float' };
}

/** Everything that a spec can ask about, of one file or of what will be one. */
export interface Facts {
  readings: Readings;
  channels: number;
  sampleRateHz: number;
  durationSeconds: number;
  /** Name of the channel layout, such as `5.1`. */
  layout: Fact<string>;
  /** Null of a file that keeps no samples of any depth. */
  bitDepth: Fact<number | null>;
  /** Null of a kind that is not written here. */
  file: Fact<{ kind: FileKind | null; name: string }>;
  /** Null of a file that is not lossy. */
  bitRate: Fact<{ kbps: Fact<number>; mode: Fact<RateMode> } | null>;
  edges: Fact<Edges>;
  tags: Fact<Tags>;
  making: Fact<Making>;
  /** Samples that are no numbers. */
  invalidSamples: number;
  /** What was damaged or missing as it was read, in words; empty where it is whole. */
  damage: readonly string[];
  /** How long it was meant to be, where that is known, and how long it is. */
  length: { frames: number; expectedFrames: number } | null;
}

/** A file as it was measured. */
export interface MeasuredFile {
  format: {
    container: string;
    codec: string;
    sampleRateHz: number;
    bitDepth: number | null;
    bitRateBps: number | null;
    bitRateMode?: RateMode | null | undefined;
    channels: number;
    layout: string;
    durationSeconds: number;
    track: object | null;
    decodeErrors: number;
  };
  readings: Readings;
  edges?: Edges | undefined;
  nonFiniteSamples: number;
  missingFrames?: number | undefined;
  /** What it says of itself, where that was read. */
  tags?: Tags | undefined;
}

/** What is known of a file by itself, wherever it comes from. */
export function factsOfFile({
  format,
  readings,
  edges,
  nonFiniteSamples,
  missingFrames = 0,
  tags,
}: MeasuredFile): Facts {
  const { bitRateBps, bitRateMode, decodeErrors } = format;
  const damage: string[] = [];
  if (decodeErrors > 0) damage.push(`${decodeErrors} decoding ${decodeErrors === 1 ? 'error' : 'errors'}`);
  if (missingFrames > 0) damage.push(messages.framesMissing(missingFrames));
  return {
    readings,
    channels: format.channels,
    sampleRateHz: format.sampleRateHz,
    durationSeconds: format.durationSeconds,
    layout: format.layout,
    bitDepth: format.bitDepth,
    file: { kind: fileKindOf(format) ?? null, name: format.container },
    bitRate:
      format.bitDepth !== null
        ? null
        : {
            kbps: bitRateBps === null ? unknown(messages.bitRateNotStated) : Math.round(bitRateBps / 1000),
            mode: bitRateMode ?? unknown('constant or variable can not be told of this kind of file'),
          },
    edges: edges ?? unknown(messages.measuredBefore),
    tags: tags ?? unknown(messages.tagsNotRead),
    making: unknown(messages.onlyOfWrittenFiles),
    invalidSamples: nonFiniteSamples,
    damage,
    length: null,
  };
}
