/**
 * Runs of equal full-scale samples: what a converter or an encoder cut off (common practice, no source).
 *
 * A run counts from three equal samples at full scale, when the signal enters or leaves it with a jump. Without the
 * jump it is the quantised top of a slow wave, as in a file that was only normalised to full scale.
 */
const { abs, max } = Math;

const LEAST_RUN_FRAMES = 3;
/** Full scale of 16-bit material, so that clipping survives being copied into a deeper file. */
const FULL_SCALE = 1 - 2 ** -15;
/** A quantised wave of three equal samples steps by less than 3 of its steps beside them. */
const LEAST_JUMP = 4 * 2 ** -15;

export interface ClippedRun {
  startFrame: number;
  frames: number;
}

/** Runs whose places are kept for each channel; all are counted. */
const PLACES_KEPT = 1000;

export class ClippedRunDetector {
  count = 0;
  /** The first 1000 runs. */
  readonly runs: ClippedRun[] = [];
  #frame = 0;
  #value = 0;
  #length = 0;
  #entryJump = Number.POSITIVE_INFINITY;
  #previous = Number.NaN;

  process(samples: Float32Array, frames: number): void {
    let previous = this.#previous;
    for (let i = 0; i < frames; i++) {
      const x = samples[i] as number;
      if (this.#length > 0 && x === this.#value) {
        this.#length++;
      } else {
        if (this.#length > 0) this.#end(this.#frame + i, abs(this.#value - x));
        if (x >= FULL_SCALE || x <= -FULL_SCALE) {
          this.#value = x;
          this.#length = 1;
          // The first sample of a programme has no neighbour: a start at full scale is a jump.
          this.#entryJump = Number.isNaN(previous) ? Number.POSITIVE_INFINITY : abs(x - previous);
        }
      }
      previous = x;
    }
    this.#previous = previous;
    this.#frame += frames;
  }

  finish(): void {
    if (this.#length > 0) this.#end(this.#frame, Number.POSITIVE_INFINITY);
  }

  #end(endFrame: number, exitJump: number): void {
    if (this.#length >= LEAST_RUN_FRAMES && max(this.#entryJump, exitJump) > LEAST_JUMP) {
      this.count++;
      if (this.runs.length < PLACES_KEPT) this.runs.push({ startFrame: endFrame - this.#length, frames: this.#length });
    }
    this.#length = 0;
  }
}
