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

  /** @param sumOfSquares the weighted sum of squares of the next interval */
  push(sumOfSquares: number): void {
    const place = this.#tick % this.ticks;
    this.#values[place] = sumOfSquares;
    this.#beginning += sumOfSquares;
    this.#tick++;
    if (this.#tick >= this.ticks) this.#compare((this.#endings[place + 1] as number) + this.#beginning);
    if (place === this.ticks - 1) this.#turn();
  }

  #compare(sum: number): void {
    if (this.power !== undefined && sum <= this.power * this.#leastFrames) return;
    const startFrame = gridFrame(this.#tick - this.ticks, TICKS_PER_SECOND, this.#sampleRateHz);
    const endFrame = gridFrame(this.#tick, TICKS_PER_SECOND, this.#sampleRateHz);
    const power = sum / (endFrame - startFrame);
    if (this.power === undefined || power > this.power) {
      this.power = power;
      this.startFrame = startFrame;
    }
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
