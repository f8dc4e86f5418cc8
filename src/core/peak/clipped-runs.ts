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

/** The part of a run on one side of a segment's edge, and the jump at its known end. */
export interface OpenRun {
  frames: number;
  jump: number;
  /** The run fills the whole segment: it is open at the other edge too. */
  isWhole: boolean;
}

/** Runs whose places are kept for each channel; all are counted. */
const PLACES_KEPT = 1000;

/** Counts runs, and keeps the places of the first. */
export class ClippedRunList {
  count = 0;
  readonly runs: ClippedRun[] = [];
  #open: { startFrame: number; frames: number; jump: number } | undefined;

  /** A run that has ended, with the greater of the jumps at its ends. */
  add(startFrame: number, frames: number, jump: number): void {
    if (frames < LEAST_RUN_FRAMES || jump <= LEAST_JUMP) return;
    this.count++;
    if (this.runs.length < PLACES_KEPT) this.runs.push({ startFrame, frames });
  }

  /** The runs of a segment, in order of time, with those that its edges cut in two joined to what came before. */
  addSegment(segment: {
    startFrame: number;
    endFrame: number;
    clippedRunCount: number;
    clippedRuns: readonly ClippedRun[];
    headRun: OpenRun | undefined;
    tailRun: OpenRun | undefined;
  }): void {
    const { startFrame, endFrame, clippedRunCount, clippedRuns, headRun, tailRun } = segment;
    if (tailRun?.isWhole) {
      if (this.#open) this.#open.frames += tailRun.frames;
      return;
    }
    if (headRun && this.#open) {
      const { startFrame: openFrame, frames, jump } = this.#open;
      this.add(openFrame, frames + headRun.frames, max(jump, headRun.jump));
    }
    this.#open = undefined;
    this.count += clippedRunCount;
    for (const run of clippedRuns) if (this.runs.length < PLACES_KEPT) this.runs.push(run);
    if (tailRun) {
      const { frames, jump } = tailRun;
      this.#open = { startFrame: Math.max(startFrame, endFrame - frames), frames, jump };
    }
  }
}

/** Finds the runs of one channel. */
export class ClippedRunDetector {
  readonly found = new ClippedRunList();
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
    this.found.add(endFrame - this.#length, this.#length, max(this.#entryJump, exitJump));
    this.#length = 0;
  }
}
