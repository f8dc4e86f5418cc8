import type { ChannelSegment } from './segment';

/** What the second of two channels is to the first. */
export type PairRelation = 'same' | 'inverted' | 'different';

/** Two steps of 16 bits: what rounding and dither put between channels that were one. */
const TOLERANCE = 2 ** -14;

/**
 * Tells whether two channels hold the same sound, or the same upside down: whether the waveform's extremes agree in every
 * 256 frames. Two sounds that differ don't do that for long.
 */
export class ChannelPair {
  #isSame = true;
  #isInverted = true;

  get relation(): PairRelation {
    if (this.#isSame) return 'same';
    return this.#isInverted ? 'inverted' : 'different';
  }

  add({ waveform: a }: ChannelSegment, { waveform: b }: ChannelSegment): void {
    this.#isSame &&= Boolean(a && b && agree(a.min, b.min, 1) && agree(a.max, b.max, 1));
    this.#isInverted &&= Boolean(a && b && agree(a.min, b.max, -1) && agree(a.max, b.min, -1));
  }
}

function agree(a: Float32Array, b: Float32Array, sign: 1 | -1): boolean {
  return a.length === b.length && a.every((value, i) => Math.abs(value - sign * (b[i] as number)) <= TOLERANCE);
}
