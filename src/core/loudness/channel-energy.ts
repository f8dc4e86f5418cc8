import { gridFrame, TICKS_PER_SECOND } from '../units/frames';
import { KWeightingFilter } from './k-weighting';

/**
 * One channel's K-weighted energy on the 10 ms grid. After each call of process, `ticks` holds the sums of squares
 * of the `tickCount` intervals completed by it; an interval that is still open stays inside.
 */
export class ChannelEnergy {
  readonly ticks: Float64Array;
  tickCount = 0;
  readonly #filter: KWeightingFilter;
  readonly #sampleRateHz: number;
  #frame = 0;
  #tick = 0;
  #tickEnd: number;
  #sum = 0;

  /** @param maxFrames most frames of one call of process */
  constructor(sampleRateHz: number, maxFrames: number) {
    this.#sampleRateHz = sampleRateHz;
    this.#filter = new KWeightingFilter(sampleRateHz);
    this.#tickEnd = gridFrame(1, TICKS_PER_SECOND, sampleRateHz);
    this.ticks = new Float64Array(Math.ceil((maxFrames * TICKS_PER_SECOND) / sampleRateHz) + 2);
  }

  process(samples: Float32Array, frames: number): void {
    this.tickCount = 0;
    let position = 0;
    while (position < frames) {
      const end = Math.min(frames, position + this.#tickEnd - this.#frame);
      this.#sum = this.#filter.addSquares(samples, position, end, this.#sum);
      this.#frame += end - position;
      position = end;
      if (this.#frame === this.#tickEnd) {
        this.ticks[this.tickCount++] = this.#sum;
        this.#sum = 0;
        this.#tick++;
        this.#tickEnd = gridFrame(this.#tick + 1, TICKS_PER_SECOND, this.#sampleRateHz);
      }
    }
  }
}
