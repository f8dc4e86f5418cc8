/** The last seconds of a line, for a recording that begins before it was asked for. */
export class PreRoll {
  readonly #channels: Float32Array[];
  readonly #length: number;
  #written = 0;

  /** @param frames that are held at most */
  constructor(channels: number, frames: number) {
    this.#length = frames;
    this.#channels = Array.from({ length: channels }, () => new Float32Array(frames));
  }

  add(channels: readonly Float32Array[], frames: number): void {
    // Of more than there is room for, the last.
    const skipped = Math.max(0, frames - this.#length);
    this.#written += skipped;
    for (let from = skipped; from < frames; ) {
      const at = this.#written % this.#length;
      const count = Math.min(frames - from, this.#length - at);
      this.#channels.forEach((held, c) => {
        held.set((channels[c] as Float32Array).subarray(from, from + count), at);
      });
      this.#written += count;
      from += count;
    }
  }

  /** A copy of the last frames, as many as there are of those that are asked for. */
  last(frames: number): Float32Array[] {
    const count = Math.min(frames, this.#written, this.#length);
    const from = (this.#written - count) % this.#length;
    const first = Math.min(count, this.#length - from);
    return this.#channels.map((held) => {
      const copy = new Float32Array(count);
      copy.set(held.subarray(from, from + first));
      copy.set(held.subarray(0, count - first), first);
      return copy;
    });
  }

  /** Nothing that was heard is held any more. */
  clear(): void {
    this.#written = 0;
  }
}
