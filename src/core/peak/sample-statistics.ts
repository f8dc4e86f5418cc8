import { gridFrame, TICKS_PER_SECOND } from '../units/frames';
import { Growable } from '../units/growable';

const { abs } = Math;

/** One channel's plain statistics: sample peak and its place, sum, and the sums of squares of every 10 ms. */
export class SampleStatistics {
  peak = 0;
  peakFrame = 0;
  sum = 0;
  /** Unweighted sums of squares of the complete 10 ms, and of what is left behind them. */
  readonly tickSquares = new Growable(Float64Array);
  restSquares = 0;
  readonly #sampleRateHz: number;
  #frame = 0;
  #tickEnd: number;

  constructor(sampleRateHz: number) {
    this.#sampleRateHz = sampleRateHz;
    this.#tickEnd = gridFrame(1, TICKS_PER_SECOND, sampleRateHz);
  }

  process(samples: Float32Array, frames: number): void {
    let position = 0;
    while (position < frames) {
      const end = Math.min(frames, position + this.#tickEnd - this.#frame);
      this.#accumulate(samples, position, end);
      this.#frame += end - position;
      position = end;
      if (this.#frame === this.#tickEnd) {
        this.tickSquares.push(this.restSquares);
        this.restSquares = 0;
        this.#tickEnd = gridFrame(this.tickSquares.length + 1, TICKS_PER_SECOND, this.#sampleRateHz);
      }
    }
  }

  #accumulate(samples: Float32Array, start: number, end: number): void {
    // Running sums, so that the result does not depend on how the samples were cut.
    let sum = this.sum;
    let squares = this.restSquares;
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
    this.restSquares = squares;
  }
}
