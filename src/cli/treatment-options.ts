/** The options of `master`, from the words of a command line. */
import { existsSync, readFileSync } from 'node:fs';
import type { FileTags } from '@/codecs/tag';
import { coverType, MOST_COVER_BYTES } from '@/core/delivery/cover';
import { FILE_KINDS, KIND_FACTS, kindOfName, RATE_MODES } from '@/core/delivery/file-kinds';
import { type DeliveryFormat, deliveryFormatSchema, possibleRate } from '@/core/delivery/format';
import { type Tags, tagsSchema } from '@/core/delivery/tags';
import { AppError } from '@/core/errors/app-error';
import { SPECS, specById } from '@/core/spec/catalogue';
import { type Spec, specSchema } from '@/core/spec/spec';
import { GAIN_LIMIT_DB } from '@/core/treatment/gain';
import { MOST_REDUCTION_DB } from '@/core/treatment/limited-solver';
import { DITHERS } from '@/core/treatment/steps/dither';
import { FADE_SHAPES } from '@/core/treatment/steps/fade';
import { LFE_LINKS, type Limit, LOOK_AHEADS_MS, RELEASES_MS, USUAL_TIMES } from '@/core/treatment/steps/limit';
import { CHANNEL_MIXES } from '@/core/treatment/steps/mix-channels';
import { type Treatment, treatmentSchema } from '@/core/treatment/treatment';
import { WRITTEN_DEPTHS } from '@/formats/pack';
import type { MASTER_OPTIONS } from './master-words';

export type MasterWords = { [K in keyof typeof MASTER_OPTIONS]?: string | boolean | undefined } & {
  spec?: string | undefined;
};

export interface MasterOptions {
  spec: Spec;
  /** Instead of one that is worked out. */
  gainDb: number | null;
  maxReductionDb: number;
  /** Of the file that is written; its rate and channels are those of the treatment. */
  format: DeliveryFormat;
  /** Every step but gain and limiter, which are worked out. */
  treatment: Treatment;
  limit: Omit<Limit, 'ceilingDbtp'>;
  /** What the file is to say of itself. */
  tags: Tags;
  cover: FileTags['cover'];
}

const PREMASTER_SPEC = 'premaster';

/**
 * @param sampleRateHz of the file, in whose frames times are counted
 * @param outputPath whose extension says what is written
 * @throws AppError `usage`
 */
export function masterOptions(words: MasterWords, sampleRateHz: number, outputPath: string): MasterOptions {
  const spec = specOf(words);
  const ceiling = number(words, 'ceiling', -12, 0);
  const isPremaster = words.premaster === true;
  const maxReductionDb = number(words, 'max-reduction', 0, MOST_REDUCTION_DB) ?? 0;
  if (isPremaster && (maxReductionDb > 0 || words.dither !== undefined || words.gain !== undefined)) {
    throw new AppError('usage', {
      reason: 'A premaster is only turned down: it has no limiter, no dither and no gain of its own',
    });
  }
  const format = formatOf(words, outputPath);
  return {
    spec: ceiling === null ? spec : { ...spec, peak: { ...spec.peak, ceiling } },
    gainDb: number(words, 'gain', -GAIN_LIMIT_DB, GAIN_LIMIT_DB),
    maxReductionDb,
    format,
    treatment: treatmentOf(words, sampleRateHz, format),
    limit: {
      link: (number(words, 'link', 0, 100) ?? 100) / 100,
      lfe: choice(words, 'lfe', LFE_LINKS, 'linked'),
      lookAheadMs: number(words, 'look-ahead', LOOK_AHEADS_MS.least, LOOK_AHEADS_MS.most) ?? USUAL_TIMES.lookAheadMs,
      releaseMs: number(words, 'release', RELEASES_MS.least, RELEASES_MS.most),
    },
    tags: tagsOf(words),
    cover: typeof words.cover === 'string' ? coverAt(words.cover) : null,
  };
}

/** A picture on this disk. Throws `usage` where it is none. */
export function coverAt(path: string): NonNullable<FileTags['cover']> {
  const bytes = existsSync(path) ? readFileSync(path) : new Uint8Array();
  const mediaType = coverType(bytes);
  if (!mediaType || bytes.length > MOST_COVER_BYTES) {
    throw new AppError('usage', { reason: `${path} is not a PNG or JPEG picture of 10 MB at most` });
  }
  return { path, mediaType };
}

function tagsOf({ title, artist, album, track, year, genre, comment, isrc }: MasterWords): Tags {
  const parsed = tagsSchema.safeParse({ title, artist, album, track, year, genre, comment, isrc });
  if (parsed.success) return parsed.data;
  throw new AppError('usage', { reason: parsed.error.issues[0]?.message ?? 'A tag is not what it should be' });
}

/** By the extension of what is to be written, with what is said beside it. */
function formatOf(words: MasterWords, outputPath: string): DeliveryFormat {
  const kind = kindOfName(outputPath);
  if (!kind) {
    const known = FILE_KINDS.map((own) => `.${KIND_FACTS[own].extensions[0]}`);
    throw new AppError('usage', { reason: `--out ends in one of ${[...new Set(known)].join(', ')}` });
  }
  return deliveryFormatSchema.parse({
    kind,
    bitDepth: words.bits === undefined ? null : Number(choice(words, 'bits', WRITTEN_DEPTHS.map(String), '24')),
    bitRateKbps: number(words, 'bitrate', 8, 1024),
    mode: words.mode === undefined ? null : choice(words, 'mode', RATE_MODES, 'constant'),
    hasLoudnessTags: words['loudness-tags'] === true,
    withoutAdm: words['without-adm'] === true,
  });
}

function treatmentOf(words: MasterWords, sampleRateHz: number, format: DeliveryFormat): Treatment {
  // A kind that is not written at the source's rate is written at the one that loses least, unless one is asked for.
  const resampleHz = number(words, 'rate', 8000, 384_000) ?? possibleRate(format.kind, sampleRateHz);
  const writtenHz = resampleHz ?? sampleRateHz;
  const frames = (name: keyof MasterWords, rate: number) => {
    const time = seconds(words, name);
    return time === null ? null : Math.round(time * rate);
  };
  const shape = choice(words, 'fade-shape', FADE_SHAPES, 'equal-power');
  const fade = (name: 'fade-in' | 'fade-out') => {
    const length = frames(name, writtenHz);
    return length ? { frames: length, shape } : null;
  };
  const kind = words['room-tone'] === true ? 'room-tone' : 'silence';
  const pad = (name: 'head' | 'tail') => {
    const length = frames(name, writtenHz);
    return length ? { frames: length, kind } : null;
  };
  const [startFrame, endFrame] = [frames('start', sampleRateHz), frames('end', sampleRateHz)];
  if (endFrame !== null && endFrame <= (startFrame ?? 0)) {
    throw new AppError('usage', { reason: 'Nothing is left between --start and --end' });
  }
  return treatmentSchema.parse({
    trim: startFrame === null && endFrame === null ? null : { startFrame: startFrame ?? 0, endFrame },
    resampleHz: resampleHz === sampleRateHz ? null : resampleHz,
    removeDc: words['remove-dc'] === true,
    mix: choice(words, 'channels', CHANNEL_MIXES, 'stereo'),
    head: pad('head'),
    tail: pad('tail'),
    gainDb: 0,
    outputGainDb: number(words, 'trim', -24, 0) ?? 0,
    fadeIn: fade('fade-in'),
    fadeOut: fade('fade-out'),
    dither: words.dither === undefined ? null : choice(words, 'dither', DITHERS, 'none'),
  });
}

function specOf({ spec, 'spec-file': file, premaster }: MasterWords): Spec {
  if (typeof file === 'string') return specFromFile(file);
  if (spec !== undefined) return specById(spec);
  if (premaster === true) return specById(PREMASTER_SPEC);
  throw new AppError('usage', { reason: `--spec ID is missing (one of ${SPECS.map(({ id }) => id).join(', ')})` });
}

function specFromFile(file: string): Spec {
  try {
    return specSchema.parse(JSON.parse(readFileSync(file, 'utf8')));
  } catch (error) {
    throw new AppError('usage', { reason: `${file} is not a spec that can be read` }, { cause: error });
  }
}

function number(words: MasterWords, name: keyof MasterWords, least: number, most: number): number | null {
  const word = words[name];
  if (typeof word !== 'string') return null;
  const value = Number(word);
  if (word.trim() !== '' && value >= least && value <= most) return value;
  throw new AppError('usage', { reason: `--${name} is a number from ${least} to ${most}` });
}

function choice<T extends string>(words: MasterWords, name: keyof MasterWords, known: readonly T[], otherwise: T): T {
  const word = words[name];
  if (word === undefined) return otherwise;
  const found = known.find((value) => value === word);
  if (found !== undefined) return found;
  throw new AppError('usage', { reason: `--${name} is one of ${known.join(', ')}` });
}

/** Seconds, or minutes and hours before a colon: `90`, `1:30`, `1:02:03.250`. */
function seconds(words: MasterWords, name: keyof MasterWords): number | null {
  const word = words[name];
  if (typeof word !== 'string') return null;
  if (!/^(\d+:)?(\d+:)?\d+(\.\d+)?$/.test(word)) {
    throw new AppError('usage', { reason: `--${name} is a time, such as 90, 1:30 or 1:02:03.250` });
  }
  return word.split(':').reduce((total, part) => 60 * total + Number(part), 0);
}
