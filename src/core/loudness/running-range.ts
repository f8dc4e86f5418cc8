import { ABSOLUTE_GATE_POWER, type LoudnessRange, rangeGatePower, rangeOfAscending } from './gating';

/** Powers that there is room for at first: those of some seven minutes. */
const FIRST_ROOM = 4096;

/** Loudness range so far, as `loudnessRange` has it, of short-term powers that come one by one. A power costs one move of memory. */
export class RunningRange {
  /** Those that pass the absolute gate, ascending. */
  #powers = new Float64Array(FIRST_ROOM);
  #count = 0;
  #sum = 0;

  /** @param power weighted mean square of 3 s */
  add(power: number): void {
    if (!(power >= ABSOLUTE_GATE_POWER)) return;
    if (this.#count === this.#powers.length) {
      const larger = new Float64Array(2 * this.#count);
      larger.set(this.#powers);
      this.#powers = larger;
    }
    const place = firstAtLeast(this.#powers, this.#count, power);
    this.#powers.copyWithin(place + 1, place, this.#count);
    this.#powers[place] = power;
    this.#count++;
    this.#sum += power;
  }

  /** Null where nothing passes the gates. */
  range(): LoudnessRange | null {
    if (this.#count === 0) return null;
    const gate = rangeGatePower(this.#sum / this.#count);
    return rangeOfAscending(this.#powers.subarray(firstAtLeast(this.#powers, this.#count, gate), this.#count));
  }
}

/** Place of the first of `count` ascending values that is no less. */
function firstAtLeast(ascending: Float64Array, count: number, value: number): number {
  let low = 0;
  let high = count;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((ascending[middle] ?? 0) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}
