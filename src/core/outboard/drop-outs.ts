/** What never came back while something was sent, in frames of what was sent. */
export interface DropOut {
  startFrame: number;
  frames: number;
}

/** Gear has noise: so long without a single step of it is a converter or a driver that gave nothing. */
const LEAST_SECONDS = 0.001;
/** Below this, what was sent may well come back as nothing. */
const SENT = 10 ** (-60 / 20);
/** More of them are not listed. */
const MOST_LISTED = 100;

/** Finds where what came back is digital silence while what was sent is not, from both as they pass by. */
export class DropOutFinder {
  readonly #leastFrames: number;
  readonly #found: DropOut[] = [];
  #frame = 0;
  #zeros = 0;
  #loudest = 0;

  constructor(sampleRateHz: number) {
    this.#leastFrames = Math.ceil(LEAST_SECONDS * sampleRateHz);
  }

  /** Planar, of one length, each frame beside the one that it is. */
  add(sent: readonly Float32Array[], returned: readonly Float32Array[]): void {
    const frames = sent[0]?.length ?? 0;
    for (let n = 0; n < frames; n++, this.#frame++) {
      if (returned.every((samples) => samples[n] === 0)) {
        this.#zeros++;
        for (const samples of sent) this.#loudest = Math.max(this.#loudest, Math.abs(samples[n] as number));
      } else if (this.#zeros > 0) this.#end();
    }
  }

  finish(): DropOut[] {
    this.#end();
    return this.#found;
  }

  #end(): void {
    const isDropOut = this.#zeros >= this.#leastFrames && this.#loudest > SENT;
    if (isDropOut && this.#found.length < MOST_LISTED) {
      this.#found.push({ startFrame: this.#frame - this.#zeros, frames: this.#zeros });
    }
    this.#zeros = 0;
    this.#loudest = 0;
  }
}
