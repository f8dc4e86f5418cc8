import * as z from 'zod';
import { defineStep } from '../step';

export const DITHERS = ['none', 'rpdf', 'tpdf', 'shaped'] as const;
export type Dither = (typeof DITHERS)[number];
export const ditherSchema = z.enum(DITHERS);

const DESCRIPTIONS: Readonly<Record<Dither, string>> = {
  none: 'No dither',
  rpdf: 'Rectangular dither',
  tpdf: 'Triangular dither',
  shaped: 'Triangular dither, noise-shaped',
};

export const ditherStep = defineStep({
  title: 'Dither',
  /** Null is by depth: triangular where bits are dropped to 16, none else. */
  schema: ditherSchema.nullable().default(null),
  stage: 'finish',
  describe: (dither) => dither && DESCRIPTIONS[dither],
  flags: [
    { name: 'dither', value: 'KIND', help: `${DITHERS.join(', ')} (unless it is set: tpdf to 16 bits, else none)` },
  ],
  read: (flags) => flags.choice('dither', DITHERS, null),
});

/**
 * Five taps that move the error of quantising to where hearing is dull, for 44.1 and 48 kHz: Lipshitz, Vanderkooy and
 * Wannamaker, "Minimally Audible Noise Shaping", J. Audio Eng. Soc. 39 (1991), from memory.
 */
const SHAPING = [2.033, -2.165, 1.959, -1.59, 0.6149] as const;

/** In a stretch of digital silence as long as this, dither is silent too, from its first frame to its last. */
export const SILENT_FRAMES = 1000;

/**
 * Quantises a channel to whole steps, with or without dither: rectangular (one uniform number) makes the error's mean
 * independent of the signal, triangular (the sum of two) its power as well; shaped is triangular with its error moved.
 * The same samples give the same result, however they are cut.
 *
 * Error power in steps squared, white: none 1/12 (where the signal is busy), rectangular 1/6, triangular 1/4 (Lipshitz,
 * Wannamaker and Vanderkooy, "Quantization and Dither: A Theoretical Survey", J. Audio Eng. Soc. 40 (1992), from memory).
 */
export class Quantiser {
  readonly #dither: Dither;
  readonly #errors = new Float64Array(SHAPING.length);
  #state: number;

  /** @param channel any number that tells channels apart, so that their noise has nothing in common */
  constructor(dither: Dither, channel: number) {
    this.#dither = dither;
    this.#state = (0x9e3779b9 * (channel + 1)) | 0 || 1;
  }

  /** @param value in steps; the whole number that it becomes */
  quantise(value: number): number {
    if (this.#dither === 'none') return Math.round(value);
    if (this.#dither === 'rpdf') return Math.round(value + this.#uniform());
    if (this.#dither === 'tpdf') return Math.round(value + this.#uniform() + this.#uniform());
    return this.#shaped(value);
  }

  /** A frame of digital silence that is left so: 0, and no error that goes on. */
  rest(): number {
    this.#errors.fill(0);
    return 0;
  }

  #shaped(value: number): number {
    const errors = this.#errors;
    let wanted = value;
    for (let i = 0; i < SHAPING.length; i++) wanted -= (SHAPING[i] as number) * (errors[i] as number);
    const whole = Math.round(wanted + this.#uniform() + this.#uniform());
    errors.copyWithin(1, 0);
    errors[0] = whole - wanted;
    return whole;
  }

  /** From −½ to ½: xorshift32 (Marsaglia 2003, from memory), whose period no programme is longer than. */
  #uniform(): number {
    let x = this.#state;
    x ^= x << 13;
    x ^= x >>> 17;
    x ^= x << 5;
    this.#state = x;
    return (x >>> 0) / 2 ** 32 - 0.5;
  }
}

/** Finds the long stretches of digital silence in a channel that is seen piece by piece, each with what follows it. */
export class SilenceFinder {
  /** Frames of silence right before the next piece. */
  #before = 0;

  /**
   * @param samples a piece, and behind it as many of the frames that follow as there are, up to SILENT_FRAMES
   * @param frames of the piece itself
   * @param marks for each of those, 1 within a stretch of SILENT_FRAMES or more and 0 elsewhere
   */
  find(samples: Float32Array, frames: number, marks: Uint8Array): void {
    marks.fill(0, 0, frames);
    let trailing = 0;
    for (let start = 0; start < frames; ) {
      let end = start;
      while (end < samples.length && samples[end] === 0) end++;
      const before = start === 0 ? this.#before : 0;
      if (before + end - start >= SILENT_FRAMES) marks.fill(1, start, Math.min(end, frames));
      trailing = end >= frames ? before + frames - start : 0;
      start = end + 1;
    }
    if (frames > 0) this.#before = trailing;
  }
}
