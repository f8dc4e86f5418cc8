/** The times of parts are rounded, and a device's clock is its own: less between two of them is nothing that was lost. */
const LEAST_GAP_SECONDS = 0.005;

/** Numbers the frames of a device by the times of its parts: where some never came, the next has a later number. */
export class FrameNumbers {
  readonly #sampleRateHz: number;
  #nextFrame = 0;
  /** When the next part should begin, in µs; undefined before the first. */
  #expectedUs: number | undefined;

  constructor(sampleRateHz: number) {
    this.#sampleRateHz = sampleRateHz;
  }

  /**
   * @param timestampUs when the part begins
   * @returns number of its first frame
   */
  next(timestampUs: number, frames: number): number {
    const lateSeconds = this.#expectedUs === undefined ? 0 : (timestampUs - this.#expectedUs) / 1e6;
    if (lateSeconds >= LEAST_GAP_SECONDS) this.#nextFrame += Math.round(lateSeconds * this.#sampleRateHz);
    const startFrame = this.#nextFrame;
    this.#nextFrame += frames;
    this.#expectedUs = timestampUs + (frames / this.#sampleRateHz) * 1e6;
    return startFrame;
  }
}
