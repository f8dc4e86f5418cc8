import { gridFrame, TICKS_PER_SECOND } from '../units/frames';
import { Growable } from '../units/growable';
import { KWeightingFilter } from './k-weighting';

/** One channel's K-weighted energy on the 10 ms grid: the sum of squares of every complete interval. Whoever has read some may drop them. */
export class ChannelEnergy {
  readonly ticks = new Growable(Float64Array);
  readonly #filter: KWeightingFilter;
  readonly #sampleRateHz: number;
  #frame = 0;
  #tick = 0;
  #tickEnd: number;
  #sum = 0;

  constructor(sampleRateHz: number) {
    this.#sampleRateHz = sampleRateHz;
    this.#filter = new KWeightingFilter(sampleRateHz);
    this.#tickEnd = gridFrame(1, TICKS_PER_SECOND, sampleRateHz);
  }

  process(samples: Float32Array, frames: number): void {
    let position = 0;
    while (position < frames) {
      const end = Math.min(frames, position + this.#tickEnd - this.#frame);
      this.#sum = this.#filter.addSquares(samples, position, end, this.#sum);
      this.#frame += end - position;
      position = end;
      if (this.#frame === this.#tickEnd) {
        this.ticks.push(this.#sum);
        this.#sum = 0;
        this.#tick++;
        this.#tickEnd = gridFrame(this.#tick + 1, TICKS_PER_SECOND, this.#sampleRateHz);
      }
    }
  }
}
