import { FILE_FORMATS, isLossy } from '../file-formats/file-formats';
import type { Tags } from '../file-formats/tags';
import type { Edges } from '../loudness/edges';
import type { Readings } from '../loudness/readings';
import { type Fact, type Facts, factsOfFile, type Making, type MeasuredFile, unknown } from '../spec/facts';
import type { Treatment } from '../treatment/treatment';
import type { ResolvedFormat } from './format';
import { factsMessages as messages } from './messages';

type Source = Making['source'] & { frames: number };

/** What is known of a delivery once its file is written and read back: of the file itself, and of how it was made. */
export function writtenFacts(
  file: MeasuredFile & { format: { frames: number } },
  made: {
    format: ResolvedFormat;
    treatment: Treatment;
    source: Source;
    /** Frames that the treatment makes; null where they are not known. */
    expectedFrames: number | null;
  },
): Facts {
  const { format, treatment, source, expectedFrames } = made;
  const facts = factsOfFile(file);
  const { kind, mode } = format;
  return {
    ...facts,
    // BW64 of a split delivery is several plain WAVs: the kind is what was asked for, the bytes are what was read.
    bitRate:
      facts.bitRate !== null && 'kbps' in facts.bitRate
        ? { kbps: facts.bitRate.kbps, mode: file.format.bitRateMode ?? mode ?? facts.bitRate.mode }
        : facts.bitRate,
    making: makingOf(treatment, source, { ...format, isDithered: isDithered(treatment, format) }),
    length:
      expectedFrames === null || !FILE_FORMATS[kind].statesLength
        ? null
        : { frames: file.format.frames, expectedFrames },
  };
}

/** What is known of a delivery before it is written: what is forecast, and what was asked for. */
export function forecastFacts(forecast: {
  readings: Readings;
  edges: Edges;
  frames: number;
  layout: string;
  format: ResolvedFormat;
  treatment: Treatment;
  source: Source;
  tags: Tags;
}): Facts {
  const { readings, edges, frames, layout, format, treatment, source, tags } = forecast;
  const { kind, mode, bitRateKbps, bitDepth, channels, sampleRateHz, isPassthrough } = format;
  const ofKept = unknown(messages.readOnceWritten);
  return {
    readings,
    edges,
    layout,
    tags,
    channels,
    sampleRateHz,
    bitDepth,
    durationSeconds: frames / sampleRateHz,
    file: { kind, name: FILE_FORMATS[kind].name },
    bitRate: !isLossy(kind) ? null : isPassthrough ? ofKept : { kbps: bitRateKbps ?? ofKept, mode: mode ?? ofKept },
    making: makingOf(treatment, source, { ...format, isDithered: isDithered(treatment, format) }),
    invalidSamples: 0,
    damage: [],
    length: null,
  };
}

/** What is known of a treated programme before anybody has said what file is made of it. */
export function treatedFacts(treated: {
  readings: Readings;
  edges: Fact<Edges>;
  frames: number;
  channels: number;
  sampleRateHz: number;
  layout: string;
  treatment: Treatment;
  source: Source;
  tags: Tags;
}): Facts {
  const { readings, edges, frames, channels, sampleRateHz, layout, treatment, source, tags } = treated;
  const later = unknown(messages.chosenAtHandOver);
  return {
    readings,
    edges,
    layout,
    tags,
    channels,
    sampleRateHz,
    durationSeconds: frames / sampleRateHz,
    bitDepth: later,
    file: later,
    bitRate: later,
    making: makingOf(treatment, source, {
      sampleRateHz,
      bitDepth: later,
      isDithered: treatment.dither === null ? later : treatment.dither !== 'none',
    }),
    invalidSamples: 0,
    damage: [],
    length: null,
  };
}

function makingOf(
  { limit, trim, fadeOut }: Treatment,
  source: Source,
  made: Pick<Making, 'sampleRateHz' | 'bitDepth' | 'isDithered'>,
): Making {
  const { sampleRateHz, bitDepth, isDithered } = made;
  return {
    sampleRateHz,
    bitDepth,
    isDithered,
    source,
    isLimited: limit !== null,
    isTailWhole: (trim?.endFrame ?? source.frames) >= source.frames && !fadeOut,
  };
}

function isDithered({ dither }: Treatment, { bitDepth }: ResolvedFormat): boolean {
  return dither !== null ? dither !== 'none' : bitDepth === 16;
}
