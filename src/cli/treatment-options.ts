/** The options of `master`, from the words of a command line. */
import { readFileSync } from 'node:fs';
import { AppError } from '@/core/errors/app-error';
import { SPECS, specById } from '@/core/spec/catalogue';
import { type Spec, specSchema } from '@/core/spec/spec';
import { GAIN_LIMIT_DB } from '@/core/treatment/gain';
import { DITHERS, type Dither } from '@/core/treatment/steps/dither';
import { FADE_SHAPES, type FadeShape } from '@/core/treatment/steps/fade';
import { CHANNEL_MIXES, type ChannelMix } from '@/core/treatment/steps/mix-channels';
import { WRITTEN_DEPTHS, type WrittenDepth } from '@/formats/pack';
import type { MASTER_OPTIONS } from './master-words';

export type MasterWords = { [K in keyof typeof MASTER_OPTIONS]?: string | boolean | undefined } & {
  spec?: string | undefined;
};

export interface MasterOptions {
  spec: Spec;
  /** Instead of one that is worked out. */
  gainDb: number | null;
  maxReductionDb: number;
  bitDepth: WrittenDepth;
  dither: Dither;
  startSeconds: number;
  endSeconds: number | null;
  fadeInSeconds: number;
  fadeOutSeconds: number;
  fadeShape: FadeShape;
  mix: ChannelMix;
  removeDc: boolean;
}

const MOST_REDUCTION_DB = 12;
const PREMASTER_SPEC = 'premaster';

/** @throws AppError `usage` */
export function masterOptions(words: MasterWords): MasterOptions {
  const spec = specOf(words);
  const ceiling = number(words, 'ceiling', -12, 0);
  const isPremaster = words.premaster === true;
  const bitDepth = Number(choice(words, 'bits', WRITTEN_DEPTHS.map(String), '24')) as WrittenDepth;
  const maxReductionDb = number(words, 'max-reduction', 0, MOST_REDUCTION_DB) ?? 0;
  if (isPremaster && (maxReductionDb > 0 || words.dither !== undefined || words.gain !== undefined)) {
    throw new AppError('usage', {
      reason: 'A premaster is only turned down: it has no limiter, no dither and no gain of its own',
    });
  }
  return {
    spec: ceiling === null ? spec : { ...spec, peak: { ...spec.peak, ceiling } },
    gainDb: number(words, 'gain', -GAIN_LIMIT_DB, GAIN_LIMIT_DB),
    maxReductionDb,
    bitDepth,
    // Where bits are dropped, dither is what keeps the rest whole; 24 of them are fewer than anyone hears.
    dither: choice(words, 'dither', DITHERS, bitDepth === 16 ? 'tpdf' : 'none'),
    startSeconds: seconds(words, 'start') ?? 0,
    endSeconds: seconds(words, 'end'),
    fadeInSeconds: seconds(words, 'fade-in') ?? 0,
    fadeOutSeconds: seconds(words, 'fade-out') ?? 0,
    fadeShape: choice(words, 'fade-shape', FADE_SHAPES, 'equal-power'),
    mix: choice(words, 'channels', CHANNEL_MIXES, 'stereo'),
    removeDc: words['remove-dc'] === true,
  };
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
