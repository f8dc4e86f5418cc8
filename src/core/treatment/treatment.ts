import * as z from 'zod';
import { readingOldNames } from '../schema/old-names';
import { describeGain, gainDbSchema } from './gain';
import { describeDither, ditherSchema } from './steps/dither';
import { describeFade, type Fades, fadeSchema } from './steps/fade';
import { describeLimit, limitSchema } from './steps/limit';
import { describeMix, mixSchema } from './steps/mix-channels';
import { describePadding, type Padding, paddingSchema } from './steps/padding';
import { describeRemoveDc } from './steps/remove-dc';
import { describeResample, resampleHzSchema } from './steps/resample';
import { describeTrim, trimSchema } from './steps/trim';

/** What is taken off behind a limiter: it only ever goes down, so that the ceiling holds. */
const outputGainDbSchema = z.number().min(-24).max(0);

/**
 * The steps that a programme goes through, in this order. Each is off unless it is stated, but for the gain, which is
 * always there. Frames are those of the source for what is kept, and of the rate that is written for what comes later.
 */
export const treatmentFields = z.object({
  trim: trimSchema.nullable().default(null),
  resampleHz: resampleHzSchema.nullable().default(null),
  removeDc: z.boolean().default(false),
  /** Of two channels; any other number stays as it is. */
  mix: mixSchema.default('stereo'),
  /** Added ahead and behind, once the channels are what they are to be: it has the gain of what it is taken from. */
  paddingStart: paddingSchema.nullable().default(null),
  paddingEnd: paddingSchema.nullable().default(null),
  gainDb: gainDbSchema,
  limit: limitSchema.nullable().default(null),
  outputGainDb: outputGainDbSchema.default(0),
  fadeIn: fadeSchema.nullable().default(null),
  fadeOut: fadeSchema.nullable().default(null),
  /** Null is by depth: triangular where bits are dropped to 16, none else. */
  dither: ditherSchema.nullable().default(null),
});
/** Names that earlier versions had for steps. */
export const OLD_STEP_NAMES = {
  keep: 'trim',
  head: 'paddingStart',
  tail: 'paddingEnd',
  trimDb: 'outputGainDb',
} as const;

export const treatmentSchema = readingOldNames(treatmentFields, OLD_STEP_NAMES);
export type Treatment = z.infer<typeof treatmentFields>;
/** What a treatment may be stated as: what is left out is off. */
export type TreatmentInput = z.input<typeof treatmentFields>;

/** What is done to a source before its gain is worked out. */
const preparationFields = treatmentFields.pick({
  trim: true,
  resampleHz: true,
  removeDc: true,
  mix: true,
  paddingStart: true,
  paddingEnd: true,
});
export const preparationSchema = readingOldNames(preparationFields, OLD_STEP_NAMES);
export type Preparation = z.infer<typeof preparationFields>;

/** What is set at the rule: a gain, and the limiter behind it, if any. */
export type Levels = Pick<Treatment, 'gainDb' | 'limit'>;

/** A treatment of a gain and nothing else. */
export function gainOnly(gainDb: number): Treatment {
  return treatmentSchema.parse({ gainDb });
}

/** The steps that are on, in order, each in a few words. */
export function describeTreatment(treatment: Treatment, sourceRateHz: number): string[] {
  const {
    trim,
    resampleHz,
    removeDc,
    mix,
    paddingStart,
    paddingEnd,
    gainDb,
    limit,
    outputGainDb,
    fadeIn,
    fadeOut,
    dither,
  } = treatment;
  const rateHz = resampleHz ?? sourceRateHz;
  return [
    trim && describeTrim(trim, sourceRateHz),
    resampleHz && describeResample(resampleHz),
    removeDc && describeRemoveDc(),
    mix !== 'stereo' && describeMix(mix),
    paddingStart && describePadding(paddingStart, 'head', rateHz),
    paddingEnd && describePadding(paddingEnd, 'tail', rateHz),
    gainDb !== 0 && describeGain(gainDb),
    limit && describeLimit(limit),
    outputGainDb !== 0 && `Trim ${describeGain(outputGainDb).replace('Gain ', '')}`,
    fadeIn && describeFade(fadeIn, 'in', rateHz),
    fadeOut && describeFade(fadeOut, 'out', rateHz),
    dither && describeDither(dither),
  ].filter((step) => typeof step === 'string');
}

/** The part of a treatment that comes before its gain. */
export function preparationOf({ trim, resampleHz, removeDc, mix, paddingStart, paddingEnd }: Treatment): Preparation {
  return { trim, resampleHz, removeDc, mix, paddingStart, paddingEnd };
}

/** A treatment's fades begin and end where there is sound: within digital silence that was added. */
export function fadesOf({ fadeIn, fadeOut, paddingStart, paddingEnd }: Treatment): Fades {
  const silent = (pad: Padding | null) => (pad?.kind === 'silence' ? pad.frames : 0);
  return { fadeIn, fadeOut, paddingStart: silent(paddingStart), paddingEnd: silent(paddingEnd) };
}

/** Of a source that nothing is done to before its gain. */
export const NO_PREPARATION: Preparation = preparationOf(gainOnly(0));

/** Whether a treatment leaves a programme's samples but for their level: nothing is cut, mixed, resampled or added. */
export function isLevelOnly({ trim, resampleHz, removeDc, mix, paddingStart, paddingEnd }: Preparation): boolean {
  return !trim && !resampleHz && !removeDc && mix === 'stereo' && !paddingStart && !paddingEnd;
}
