import type * as z from 'zod';
import type { Loudspeaker } from '../loudness/channel-layout';

/** `preparation`: before the gain is worked out, and whatever it makes is measured. `levels`: at the rule. `finish`: behind it. */
export type Stage = 'preparation' | 'levels' | 'finish';

/** Rates that a step's frames are counted at, and what else it has to know of the source. */
interface StepRates {
  /** Of the source. */
  sourceHz: number;
  /** Of what is written. */
  writtenHz: number;
  /** What the source's channels are for, in their order; absent where that is not known. */
  loudspeakers?: readonly Loudspeaker[] | undefined;
}

/** A flag of the command line that sets a step, or a part of one. */
export interface StepFlag {
  /** Without its dashes, such as `fade-in`. */
  name: string;
  /** What stands behind it, such as `DB`; absent of one that is on or not. */
  value?: string;
  /** In lower case, without a full stop. */
  help: string;
}

/** Reads a step's flags. Each throws `usage` where what was typed is not what it should be. */
export interface FlagReader {
  isOn(name: string): boolean;
  /** Null where it is absent. */
  number(name: string, least: number, most: number): number | null;
  choice<T extends string, O>(name: string, known: readonly T[], otherwise: O): T | O;
  /** A time in seconds, or minutes and hours before colons, in frames; null where it is absent. */
  frames(name: string, rateHz: number): number | null;
}

/**
 * One step that a programme goes through: all that is known of it. The list of them (`treatment.ts`) gives their order, the schema of a
 * treatment, its words, and the flags and help of the command.
 */
export interface Step<S extends z.ZodType = z.ZodType, G extends Stage = Stage> {
  /** What is set; what is left out of a treatment is off. */
  schema: S;
  stage: G;
  /** Such as "Channels", where it is shown. */
  title: string;
  /**
   * What it does to frames as they are read, in place or in arrays of its own; of a step of the preparation that needs to know nothing
   * of the rest of the programme. Others are done where what they need is known.
   */
  process?(value: z.infer<S>, planar: Float32Array[]): Float32Array[];
  /** In a few words; null where it is off. */
  describe(value: z.infer<S>, rates: StepRates): string | null;
  /** Lengths that are counted at the rate that is written, at another; absent where there are none. */
  rescale?(value: z.infer<S>, ratio: number): z.infer<S>;
  /** What a switch turns it on with; absent where a panel of its own sets it. */
  on?: z.infer<S>;
  /** Empty of what the command works out by itself. */
  flags: readonly StepFlag[];
  /** What its flags say; absent where it has none. */
  read?(flags: FlagReader, rates: StepRates): z.input<S>;
}

export function defineStep<S extends z.ZodType, G extends Stage>(own: Step<S, G>): Step<S, G> {
  return own;
}

/** A length in frames at another rate; one frame stays one. */
export function rescaleFrames<T extends { frames: number } | null>(value: T, ratio: number): T {
  return value && { ...value, frames: Math.max(1, Math.round(value.frames * ratio)) };
}
