import * as z from 'zod';
import { readingOldNames } from '../schema/old-names';
import type { FlagReader, Stage, Step, StepFlag } from './step';
import { ditherStep } from './steps/dither';
import { downmixStep } from './steps/downmix';
import { type Fades, fadeInStep, fadeOutStep } from './steps/fade';
import { gainStep } from './steps/gain';
import { limitStep } from './steps/limit';
import { mixStep } from './steps/mix-channels';
import { outputGainStep } from './steps/output-gain';
import { type Padding, paddingEndStep, paddingStartStep } from './steps/padding';
import { removeDcStep } from './steps/remove-dc';
import { resampleStep } from './steps/resample';
import { trimStep } from './steps/trim';

/**
 * The steps that a programme goes through, in this order, by their names in a treatment. Each is off unless it is stated, but for the
 * gain, which is always there. Frames are those of the source for a trim, and of the rate that is written for what comes later.
 */
const STEPS = {
  trim: trimStep,
  resampleHz: resampleStep,
  removeDc: removeDcStep,
  downmix: downmixStep,
  mix: mixStep,
  paddingStart: paddingStartStep,
  paddingEnd: paddingEndStep,
  gainDb: gainStep,
  limit: limitStep,
  outputGainDb: outputGainStep,
  fadeIn: fadeInStep,
  fadeOut: fadeOutStep,
  dither: ditherStep,
} as const;
export type StepName = keyof typeof STEPS;
export const STEP_NAMES = Object.keys(STEPS) as StepName[];

type NamesOf<G extends Stage> = {
  [Name in StepName]: (typeof STEPS)[Name] extends Step<z.ZodType, G> ? Name : never;
}[StepName];
type ShapeOf<Name extends StepName> = { [Own in Name]: (typeof STEPS)[Own]['schema'] };

function shapeOf<Name extends StepName>(names: readonly Name[]): ShapeOf<Name> {
  return Object.fromEntries(names.map((name) => [name, STEPS[name].schema])) as ShapeOf<Name>;
}

const PREPARATION_NAMES = STEP_NAMES.filter((name) => STEPS[name].stage === 'preparation') as NamesOf<'preparation'>[];

/** A treatment as an object, for schemas that are derived from it. */
export const treatmentFields = z.object(shapeOf(STEP_NAMES));

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
const preparationFields = z.object(shapeOf(PREPARATION_NAMES));
export const preparationSchema = readingOldNames(preparationFields, OLD_STEP_NAMES);
export type Preparation = z.infer<typeof preparationFields>;

/** What is set at the rule: a gain, and the limiter behind it, if any. */
export type Levels = Pick<Treatment, 'gainDb' | 'limit'>;

/** A treatment of a gain and nothing else. */
export function gainOnly(gainDb: number): Treatment {
  return treatmentSchema.parse({ gainDb });
}

/** Every step off, and no gain. */
const OFF = gainOnly(0);

/** The steps that are on, in order, each in a few words. */
export function describeTreatment(treatment: Treatment, sourceHz: number): string[] {
  const rates = { sourceHz, writtenHz: treatment.resampleHz ?? sourceHz };
  return STEP_NAMES.flatMap((name) => (STEPS[name] as Step).describe(treatment[name], rates) ?? []);
}

/** A step by itself: what it is called, what it is off and on, and what it says of a treatment. */
export function stepNamed(name: StepName) {
  const step: Step = STEPS[name];
  return {
    title: step.title,
    stage: step.stage,
    flags: step.flags,
    off: OFF[name],
    on: step.on,
    describe: (treatment: Treatment, sourceHz: number): string | null =>
      step.describe(treatment[name], { sourceHz, writtenHz: treatment.resampleHz ?? sourceHz }),
  };
}

/** The flags of the command that set steps, in the order of the steps. */
export const STEP_FLAGS: readonly StepFlag[] = STEP_NAMES.flatMap((name) => STEPS[name].flags);

/**
 * A treatment as the command's flags say it, its gain 0 and its limiter off: those are worked out.
 *
 * @param writtenHz rate of the file that is written
 */
export function readTreatment(flags: FlagReader, source: Parameters<NonNullable<Step['read']>>[1]): Treatment {
  const stated = STEP_NAMES.flatMap((name) => {
    const { read }: Step = STEPS[name];
    return read ? [[name, read(flags, source)]] : [];
  });
  return treatmentFields.parse({ gainDb: 0, ...Object.fromEntries(stated) });
}

/** The steps whose lengths are counted at the rate that is written, at another: they keep their time. */
export function rescaledSteps(treatment: Treatment, ratio: number): Partial<Treatment> {
  const scaled = STEP_NAMES.flatMap((name) => {
    const { rescale }: Step = STEPS[name];
    return rescale ? [[name, rescale(treatment[name], ratio)]] : [];
  });
  return Object.fromEntries(scaled);
}

/** What is done to a source before its gain, but for its rate, which is another file's. */
export type FrameSteps = Omit<Preparation, 'resampleHz'>;

/** Frames as every step of a preparation leaves them that needs to know nothing of the rest of the programme, in order. */
export function processFrames(steps: FrameSteps, planar: Float32Array[]): Float32Array[] {
  const values: Partial<Record<StepName, unknown>> = steps;
  return PREPARATION_NAMES.reduce((frames, name) => {
    const { process }: Step = STEPS[name];
    return process && values[name] !== OFF[name] ? process(values[name], frames) : frames;
  }, planar);
}

/** The part of a treatment that comes before its gain. */
export function preparationOf(treatment: Preparation): Preparation {
  return Object.fromEntries(PREPARATION_NAMES.map((name) => [name, treatment[name]])) as Preparation;
}

/** A treatment's fades begin and end where there is sound: within digital silence that was added. */
export function fadesOf({ fadeIn, fadeOut, paddingStart, paddingEnd }: Treatment): Fades {
  const silent = (padding: Padding | null) => (padding?.kind === 'silence' ? padding.frames : 0);
  return { fadeIn, fadeOut, paddingStart: silent(paddingStart), paddingEnd: silent(paddingEnd) };
}

/** Of a source that nothing is done to before its gain. */
export const NO_PREPARATION: Preparation = preparationOf(OFF);

/** Whether a treatment leaves a programme's samples but for their level: nothing is trimmed, mixed, resampled or added. */
export function isLevelOnly(preparation: Preparation): boolean {
  return PREPARATION_NAMES.every((name) => preparation[name] === OFF[name]);
}
