import * as z from 'zod';
import { describeGain, gainDbSchema } from './gain';
import { describeDither, ditherSchema } from './steps/dither';
import { describeFade, type Fades, fadeSchema } from './steps/fade';
import { describeKeep, keepSchema } from './steps/keep';
import { describeLimit, limitSchema } from './steps/limit';
import { describeMix, mixSchema } from './steps/mix-channels';
import { describePad, type Pad, padSchema } from './steps/pad';
import { describeRemoveDc } from './steps/remove-dc';
import { describeResample, resampleHzSchema } from './steps/resample';

/** What is taken off behind a limiter: it only ever goes down, so that the ceiling holds. */
const trimDbSchema = z.number().min(-24).max(0);

/**
 * The steps that a programme goes through, in this order. Each is off unless it is stated, but for the gain, which is
 * always there. Frames are those of the source for what is kept, and of the rate that is written for what comes later.
 */
export const treatmentSchema = z.object({
  keep: keepSchema.nullable().default(null),
  resampleHz: resampleHzSchema.nullable().default(null),
  removeDc: z.boolean().default(false),
  /** Of two channels; any other number stays as it is. */
  mix: mixSchema.default('stereo'),
  /** Added ahead and behind, once the channels are what they are to be: it has the gain of what it is taken from. */
  head: padSchema.nullable().default(null),
  tail: padSchema.nullable().default(null),
  gainDb: gainDbSchema,
  limit: limitSchema.nullable().default(null),
  trimDb: trimDbSchema.default(0),
  fadeIn: fadeSchema.nullable().default(null),
  fadeOut: fadeSchema.nullable().default(null),
  /** Null is by depth: triangular where bits are dropped to 16, none else. */
  dither: ditherSchema.nullable().default(null),
});
export type Treatment = z.infer<typeof treatmentSchema>;
/** What a treatment may be stated as: what is left out is off. */
export type TreatmentInput = z.input<typeof treatmentSchema>;

/** What is done to a source before its gain is worked out. */
export const preparationSchema = treatmentSchema.pick({
  keep: true,
  resampleHz: true,
  removeDc: true,
  mix: true,
  head: true,
  tail: true,
});
export type Preparation = z.infer<typeof preparationSchema>;

/** What is set at the rule: a gain, and the limiter behind it, if any. */
export type Levels = Pick<Treatment, 'gainDb' | 'limit'>;

/** A treatment of a gain and nothing else. */
export function gainOnly(gainDb: number): Treatment {
  return treatmentSchema.parse({ gainDb });
}

/** The steps that are on, in order, each in a few words. */
export function describeTreatment(treatment: Treatment, sourceRateHz: number): string[] {
  const { keep, resampleHz, removeDc, mix, head, tail, gainDb, limit, trimDb, fadeIn, fadeOut, dither } = treatment;
  const rateHz = resampleHz ?? sourceRateHz;
  return [
    keep && describeKeep(keep, sourceRateHz),
    resampleHz && describeResample(resampleHz),
    removeDc && describeRemoveDc(),
    mix !== 'stereo' && describeMix(mix),
    head && describePad(head, 'head', rateHz),
    tail && describePad(tail, 'tail', rateHz),
    gainDb !== 0 && describeGain(gainDb),
    limit && describeLimit(limit),
    trimDb !== 0 && `Trim ${describeGain(trimDb).replace('Gain ', '')}`,
    fadeIn && describeFade(fadeIn, 'in', rateHz),
    fadeOut && describeFade(fadeOut, 'out', rateHz),
    dither && describeDither(dither),
  ].filter((step) => typeof step === 'string');
}

/** The part of a treatment that comes before its gain. */
export function preparationOf({ keep, resampleHz, removeDc, mix, head, tail }: Treatment): Preparation {
  return { keep, resampleHz, removeDc, mix, head, tail };
}

/** A treatment's fades begin and end where there is sound: within digital silence that was added. */
export function fadesOf({ fadeIn, fadeOut, head, tail }: Treatment): Fades {
  const silent = (pad: Pad | null) => (pad?.kind === 'silence' ? pad.frames : 0);
  return { fadeIn, fadeOut, head: silent(head), tail: silent(tail) };
}

/** Of a source that nothing is done to before its gain. */
export const NO_PREPARATION: Preparation = preparationOf(gainOnly(0));

/** Whether a treatment leaves a programme's samples but for their level: nothing is cut, mixed, resampled or added. */
export function isLevelOnly({ keep, resampleHz, removeDc, mix, head, tail }: Preparation): boolean {
  return !keep && !resampleHz && !removeDc && mix === 'stereo' && !head && !tail;
}
