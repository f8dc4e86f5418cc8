/** The last seconds of a line, for a recording that begins before it was asked for. */
export class PreRoll {
  readonly #channels: Float32Array[];
  readonly #length: number;
  /** Frames that never came and are held as silence, by how many had been added before each. */
  #gaps: { from: number; frames: number }[] = [];
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

  /** Notes frames that never came, of which the first stands so many before the end of what was added. */
  addGap(beforeEnd: number, frames: number): void {
    this.#gaps.push({ from: this.#written - beforeEnd, frames });
    this.#gaps = this.#gaps.filter((gap) => gap.from + gap.frames > this.#written - this.#length);
  }

  /** What never came of the last frames, oldest first: each by how many before their end it begins, with what is left of it. */
  gapsInLast(frames: number): { beforeEnd: number; frames: number }[] {
    const start = this.#written - Math.min(frames, this.#written, this.#length);
    return this.#gaps
      .map((gap) => ({ from: Math.max(gap.from, start), end: gap.from + gap.frames }))
      .filter(({ from, end }) => end > from)
      .map(({ from, end }) => ({ beforeEnd: this.#written - from, frames: end - from }));
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
    this.#gaps = [];
  }
}
