import type { ChannelSegment } from './segment';

/** What the second of two channels is to the first. */
export type PairRelation = 'same' | 'inverted' | 'different';

/**
 * Tells whether two channels hold the same samples, or the same upside down, from what has been measured of them: where
 * every energy of 10 ms, every peak of 100 ms and every extreme of the waveform agree to the bit, so do the samples.
 */
export class ChannelPair {
  #isSame = true;
  #isInverted = true;

  get relation(): PairRelation {
    if (this.#isSame) return 'same';
    return this.#isInverted ? 'inverted' : 'different';
  }

  add(first: ChannelSegment, second: ChannelSegment): void {
    if (!this.#isSame && !this.#isInverted) return;
    const { waveform: a } = first;
    const { waveform: b } = second;
    const isAlike = a && b && areEqual(first.ticks, second.ticks) && areEqual(first.truePeaks, second.truePeaks);
    this.#isSame &&= Boolean(isAlike && areEqual(a.min, b.min) && areEqual(a.max, b.max));
    this.#isInverted &&= Boolean(isAlike && areOpposite(a.min, b.max) && areOpposite(a.max, b.min));
  }
}

type Numbers = Float32Array | Float64Array;

function areEqual(a: Numbers, b: Numbers): boolean {
  return a.length === b.length && a.every((value, i) => value === b[i]);
}

function areOpposite(a: Numbers, b: Numbers): boolean {
  return a.length === b.length && a.every((value, i) => value === -(b[i] as number));
}
