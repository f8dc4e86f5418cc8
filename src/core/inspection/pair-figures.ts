/** How two channels stand to each other, over all blocks that were looked at. */
export interface PairFigures {
  /** −1 to 1: 1 where both are the same, 0 where they have nothing in common, −1 where one is the other upside down. */
  correlation: number;
  /** What is lost of their power when both are added up, beside two that have nothing in common. */
  monoLossDb: number;
}

/** Adds up two channels' products. */
export class PairSums {
  #left = 0;
  #right = 0;
  #both = 0;

  add(left: Float32Array, right: Float32Array): void {
    let [lefts, rights, both] = [0, 0, 0];
    for (let n = 0; n < left.length; n++) {
      const l = left[n] ?? 0;
      const r = right[n] ?? 0;
      lefts += l * l;
      rights += r * r;
      both += l * r;
    }
    this.#left += lefts;
    this.#right += rights;
    this.#both += both;
  }

  /** Null where a channel is silent. */
  figures(): PairFigures | null {
    if (this.#left === 0 || this.#right === 0) return null;
    const sum = this.#left + this.#right;
    return {
      correlation: this.#both / Math.sqrt(this.#left * this.#right),
      monoLossDb: -10 * Math.log10(Math.max(1e-12, (sum + 2 * this.#both) / sum)),
    };
  }
}
