import { BINS_PER_SECOND, gridFrame } from '../units/frames';
import { GrowableFloat64 } from '../units/growable';

const { abs } = Math;

/** One channel's plain statistics: sample peak and its place, sum, sum of squares, and the latter for every 100 ms. */
export class SampleStatistics {
  peak = 0;
  peakFrame = 0;
  sum = 0;
  sumOfSquares = 0;
  /** Unweighted sums of squares of the complete 100 ms bins. */
  readonly binSumsOfSquares = new GrowableFloat64();
  readonly #sampleRateHz: number;
  #frame = 0;
  #binEnd: number;
  #binSum = 0;

  constructor(sampleRateHz: number) {
    this.#sampleRateHz = sampleRateHz;
    this.#binEnd = gridFrame(1, BINS_PER_SECOND, sampleRateHz);
  }

  process(samples: Float32Array, frames: number): void {
    let position = 0;
    while (position < frames) {
      const end = Math.min(frames, position + this.#binEnd - this.#frame);
      this.#accumulate(samples, position, end);
      this.#frame += end - position;
      position = end;
      if (this.#frame === this.#binEnd) {
        this.binSumsOfSquares.push(this.#binSum);
        this.sumOfSquares += this.#binSum;
        this.#binSum = 0;
        this.#binEnd = gridFrame(this.binSumsOfSquares.length + 1, BINS_PER_SECOND, this.#sampleRateHz);
      }
    }
  }

  finish(): void {
    this.sumOfSquares += this.#binSum;
    this.#binSum = 0;
  }

  #accumulate(samples: Float32Array, start: number, end: number): void {
    // Running sums, so that the result does not depend on how the samples were cut.
    let sum = this.sum;
    let squares = this.#binSum;
    let peak = this.peak;
    for (let i = start; i < end; i++) {
      const x = samples[i] as number;
      sum += x;
      squares += x * x;
      const magnitude = abs(x);
      if (magnitude > peak) {
        peak = magnitude;
        this.peakFrame = this.#frame + i - start;
      }
    }
    this.peak = peak;
    this.sum = sum;
    this.#binSum = squares;
  }
}
