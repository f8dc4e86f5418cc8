import { gridFrame, TICKS_PER_SECOND } from '../units/frames';

/**
 * Greatest mean square over a sliding window on the 10 ms grid. EBU Tech 3341 (from memory) asks for at least ten
 * values a second; its cases with bursts at odd times need a finer grid to be read within 0.1 LU.
 *
 * The window always spans the end of one run of `ticks` intervals and the beginning of the next. Their sums are kept
 * apart, so that a value costs two additions and nothing is ever subtracted.
 */
export class WindowMaximum {
  /** Greatest mean so far, or undefined until the first window is full. */
  power: number | undefined;
  startFrame = 0;
  readonly #sampleRateHz: number;
  readonly #values: Float64Array;
  /** Sums of the run before from each place to its end. */
  readonly #endings: Float64Array;
  /** No window has fewer frames. */
  readonly #leastFrames: number;
  /** What no sum can be the greatest without exceeding. */
  #least = Number.NEGATIVE_INFINITY;
  #beginning = 0;
  #tick = 0;

  /** @param ticks length of the window in intervals of 10 ms */
  constructor(
    readonly ticks: number,
    sampleRateHz: number,
  ) {
    this.#values = new Float64Array(ticks);
    this.#endings = new Float64Array(ticks + 1);
    this.#sampleRateHz = sampleRateHz;
    this.#leastFrames = Math.floor((ticks * sampleRateHz) / TICKS_PER_SECOND);
  }

  /** @param sumsOfSquares the weighted sums of squares of the next intervals */
  push(sumsOfSquares: Float64Array): void {
    for (let taken = 0; taken < sumsOfSquares.length; ) {
      const place = this.#tick % this.ticks;
      const count = Math.min(this.ticks - place, sumsOfSquares.length - taken);
      this.#values.set(sumsOfSquares.subarray(taken, taken + count), place);
      this.#search(place, place + count);
      taken += count;
      if (place + count === this.ticks) this.#turn();
    }
  }

  /** Compares the windows that end in the intervals of the present run from one place up to another. */
  #search(from: number, to: number): void {
    const { ticks } = this;
    const values = this.#values;
    const endings = this.#endings;
    let beginning = this.#beginning;
    let tick = this.#tick;
    for (let place = from; place < to; place++) {
      beginning += values[place] as number;
      tick++;
      const sum = (endings[place + 1] as number) + beginning;
      if (sum > this.#least && tick >= ticks) this.#compare(sum, tick);
    }
    this.#beginning = beginning;
    this.#tick = tick;
  }

  #compare(sum: number, tick: number): void {
    const startFrame = gridFrame(tick - this.ticks, TICKS_PER_SECOND, this.#sampleRateHz);
    const endFrame = gridFrame(tick, TICKS_PER_SECOND, this.#sampleRateHz);
    const power = sum / (endFrame - startFrame);
    if (this.power !== undefined && power <= this.power) return;
    this.power = power;
    this.startFrame = startFrame;
    this.#least = power * this.#leastFrames;
  }

  #turn(): void {
    let sum = 0;
    for (let i = this.ticks - 1; i >= 0; i--) {
      sum += this.#values[i] as number;
      this.#endings[i] = sum;
    }
    this.#beginning = 0;
  }
}
