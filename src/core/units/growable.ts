type NumberArray = Float64Array | Float32Array | Uint16Array | Uint8Array;

/** An array of numbers that grows at its end and doubles its room, for one value per interval of a programme of any length. */
export class Growable<T extends NumberArray> {
  #values: T;
  length = 0;

  constructor(readonly Type: new (length: number) => T) {
    this.#values = new Type(1024);
  }

  push(value: number): void {
    if (this.length === this.#values.length) this.#grow(this.length + 1);
    this.#values[this.length++] = value;
  }

  append(values: ArrayLike<number>): void {
    const length = this.length + values.length;
    if (length > this.#values.length) this.#grow(length);
    this.#values.set(values, this.length);
    this.length = length;
  }

  /** Forgets the first so many values: what follows moves to the front. */
  dropFirst(count: number): void {
    this.#values.copyWithin(0, count, this.length);
    this.length -= count;
  }

  /** The last value, to be changed; there must be one. */
  replaceLast(value: number): void {
    this.#values[this.length - 1] = value;
  }

  last(): number {
    return this.#values[this.length - 1] ?? 0;
  }

  /** The values so far, as a view that the next push may leave behind. */
  view(): T {
    return this.#values.subarray(0, this.length) as T;
  }

  #grow(least: number): void {
    const larger = new this.Type(Math.max(least, this.#values.length * 2));
    larger.set(this.#values);
    this.#values = larger;
  }
}
