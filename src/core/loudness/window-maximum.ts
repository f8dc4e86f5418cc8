import { gridFrame, TICKS_PER_SECOND } from '../units/frames';

/**
 * Greatest mean square over a sliding window on the 10 ms grid. EBU Tech 3341 (from memory) asks for at least ten
 * values a second; its cases with bursts at odd times need a finer grid to be read within 0.1 LU.
 */
export class WindowMaximum {
  /** Greatest mean so far, or undefined until the first window is full. */
  power: number | undefined;
  startFrame = 0;
  readonly #ring: Float64Array;
  readonly #sampleRateHz: number;
  #tick = 0;

  /** @param ticks length of the window in intervals of 10 ms */
  constructor(
    readonly ticks: number,
    sampleRateHz: number,
  ) {
    this.#ring = new Float64Array(ticks);
    this.#sampleRateHz = sampleRateHz;
  }

  /** @param sumOfSquares the weighted sum of squares of the next interval */
  push(sumOfSquares: number): void {
    this.#ring[this.#tick % this.ticks] = sumOfSquares;
    this.#tick++;
    if (this.#tick < this.ticks) return;
    let sum = 0;
    for (let i = 0; i < this.ticks; i++) sum += this.#ring[i] as number;
    const startFrame = gridFrame(this.#tick - this.ticks, TICKS_PER_SECOND, this.#sampleRateHz);
    const endFrame = gridFrame(this.#tick, TICKS_PER_SECOND, this.#sampleRateHz);
    const power = sum / (endFrame - startFrame);
    if (this.power === undefined || power > this.power) {
      this.power = power;
      this.startFrame = startFrame;
    }
  }
}
