import {
  ABSOLUTE_GATE_LUFS,
  ABSOLUTE_GATE_POWER,
  type GatedPowers,
  integratedGatePower,
  type LoudnessRange,
  powerToLufs,
  RANGE_PERCENTILES,
  rangeGatePower,
} from './gating';

/** Width of a step. A power is counted at most so far from where it belongs, and only where a gate falls into its step. */
const STEP_LU = 0.001;
/** Louder than any sound that a converter gives. */
const TOP_LUFS = 30;
/** Steps that are added up together, at each level of them, so that a gate or a rank is found quickly; as powers of two. */
const SHIFTS = [0, 6, 12] as const;
const WIDEST = 4096;
const STEPS = Math.ceil(((TOP_LUFS - ABSOLUTE_GATE_LUFS) / STEP_LU + 1) / WIDEST) * WIDEST;

/**
 * Powers of a line that may sound for days, in memory that does not grow: how many lie in each thousandth of a LU, and their sum. What is
 * read of them is within 0.001 LU of what all of them would give.
 */
export class PowerHistogram {
  /** By level. */
  readonly #counts = SHIFTS.map((shift) => new Float64Array(STEPS >> shift));
  readonly #sums = SHIFTS.map((shift) => new Float64Array(STEPS >> shift));
  #count = 0;
  #sum = 0;

  /** @param power weighted mean square of 400 ms, or of 3 s */
  add(power: number): void {
    if (!(power >= ABSOLUTE_GATE_POWER)) return;
    const step = stepOf(power);
    SHIFTS.forEach((shift, level) => {
      const at = step >> shift;
      const [counts, sums] = [this.#counts[level] as Float64Array, this.#sums[level] as Float64Array];
      counts[at] = (counts[at] as number) + 1;
      sums[at] = (sums[at] as number) + power;
    });
    this.#count++;
    this.#sum += power;
  }

  /** Of powers of 400 ms, those that pass the gates of integrated loudness: how many, and their sum. */
  gated(): GatedPowers {
    return this.#count === 0 ? { count: 0, sum: 0 } : this.#from(integratedGatePower(this.#sum / this.#count));
  }

  /** As `loudnessRange` has it, of powers of 3 s; null where none passes the gates. */
  range(): LoudnessRange | null {
    if (this.#count === 0) return null;
    const gate = rangeGatePower(this.#sum / this.#count);
    const { count } = this.#from(gate);
    const [lowLufs, highLufs] = RANGE_PERCENTILES.map((percentile) =>
      this.#ranked(stepOf(gate), Math.round(((count - 1) * percentile) / 100)),
    ) as [number, number];
    return { rangeLu: highLufs - lowLufs, lowLufs, highLufs };
  }

  #from(gatePower: number): GatedPowers {
    let [count, sum] = [0, 0];
    for (let step = stepOf(gatePower); step < STEPS; ) {
      const level = widestAt(step);
      const shift = SHIFTS[level] as number;
      count += this.#counts[level]?.[step >> shift] as number;
      sum += this.#sums[level]?.[step >> shift] as number;
      step += 1 << shift;
    }
    return { count, sum };
  }

  /** Loudness of the one at a rank, counted from 0 upwards from a step; there must be so many. */
  #ranked(from: number, rank: number): number {
    let passed = 0;
    let step = from;
    for (let level = widestAt(step); step < STEPS - 1; level = widestAt(step)) {
      let count = this.#countAt(step, level);
      while (level > 0 && passed + count > rank) count = this.#countAt(step, --level);
      if (passed + count > rank) break;
      passed += count;
      step += 1 << (SHIFTS[level] as number);
    }
    return powerToLufs((this.#sums[0]?.[step] as number) / this.#countAt(step, 0)) as number;
  }

  #countAt(step: number, level: number): number {
    return this.#counts[level]?.[step >> (SHIFTS[level] as number)] as number;
  }
}

/** The highest level that has a place of its own beginning at a step. */
function widestAt(step: number): number {
  return (step & (WIDEST - 1)) === 0 ? 2 : (step & 63) === 0 ? 1 : 0;
}

/** Of a power that passes the absolute gate. */
function stepOf(power: number): number {
  const lufs = powerToLufs(power) ?? ABSOLUTE_GATE_LUFS;
  return Math.min(STEPS - 1, Math.max(0, Math.floor((lufs - ABSOLUTE_GATE_LUFS) / STEP_LU)));
}
