/** An append-only list of numbers that doubles its room, so a meter can keep one value per interval of any programme. */
export class GrowableFloat64 {
  #values = new Float64Array(1024);
  length = 0;

  push(value: number): void {
    if (this.length === this.#values.length) {
      const larger = new Float64Array(this.length * 2);
      larger.set(this.#values);
      this.#values = larger;
    }
    this.#values[this.length++] = value;
  }

  /** The values so far, as a view that the next push may leave behind. */
  view(): Float64Array {
    return this.#values.subarray(0, this.length);
  }
}
