import { TICKS_PER_SECOND } from '../units/frames';

/**
 * Digital silence, to 10 ms: stretches in which no channel holds anything. What no converter's noise comes near, but a coder
 * may leave of zeros, counts as nothing.
 */
export interface DigitalSilence {
  totalSeconds: number;
  /** At the very start and the very end; both are the whole length where there is nothing else. */
  headSeconds: number;
  tailSeconds: number;
}

/**
 * Mean square below which a stretch is nothing: −170 dBFS. A single sample of the last of 24 bits within 10 ms stands above it;
 * what a decoder of floats leaves of zeros stands below.
 */
export const SILENT_POWER = 1e-17;

/** Counts the silence of a programme, tick after tick. */
export class SilenceCounter {
  #ticks = 0;
  #silent = 0;
  #head = 0;
  #run = 0;

  add(isSilent: boolean): void {
    if (isSilent) {
      this.#silent++;
      this.#run++;
    } else {
      if (this.#run === this.#ticks) this.#head = this.#run;
      this.#run = 0;
    }
    this.#ticks++;
  }

  get silence(): DigitalSilence {
    const head = this.#run === this.#ticks ? this.#run : this.#head;
    return {
      totalSeconds: this.#silent / TICKS_PER_SECOND,
      headSeconds: head / TICKS_PER_SECOND,
      tailSeconds: this.#run / TICKS_PER_SECOND,
    };
  }
}
