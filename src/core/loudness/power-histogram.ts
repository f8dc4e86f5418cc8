import type { Level } from '../units/decibel';
import {
  ABSOLUTE_GATE_LUFS,
  ABSOLUTE_GATE_POWER,
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
const STEPS = Math.round((TOP_LUFS - ABSOLUTE_GATE_LUFS) / STEP_LU) + 1;

/**
 * Powers of a line that may sound for days, in memory that does not grow: how many lie in each thousandth of a LU, and their sum. What is
 * read of them is within 0.001 LU of what all of them would give.
 */
export class PowerHistogram {
  readonly #counts = new Float64Array(STEPS);
  readonly #sums = new Float64Array(STEPS);
  #count = 0;
  #sum = 0;

  /** @param power weighted mean square of 400 ms, or of 3 s */
  add(power: number): void {
    if (!(power >= ABSOLUTE_GATE_POWER)) return;
    const step = stepOf(power);
    this.#counts[step] = (this.#counts[step] as number) + 1;
    this.#sums[step] = (this.#sums[step] as number) + power;
    this.#count++;
    this.#sum += power;
  }

  /** As `integratedLufs` has it, of powers of 400 ms; null where none passes the gates. */
  integratedLufs(): Level {
    if (this.#count === 0) return null;
    const { count, sum } = this.#from(integratedGatePower(this.#sum / this.#count));
    return count === 0 ? null : powerToLufs(sum / count);
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

  #from(gatePower: number): { count: number; sum: number } {
    let [count, sum] = [0, 0];
    for (let step = stepOf(gatePower); step < STEPS; step++) {
      count += this.#counts[step] as number;
      sum += this.#sums[step] as number;
    }
    return { count, sum };
  }

  /** Loudness of the one at a rank, counted from 0 upwards from a step; there must be so many. */
  #ranked(from: number, rank: number): number {
    let passed = 0;
    let step = from;
    for (; step < STEPS - 1; step++) {
      passed += this.#counts[step] as number;
      if (passed > rank) break;
    }
    return powerToLufs((this.#sums[step] as number) / (this.#counts[step] as number)) as number;
  }
}

/** Of a power that passes the absolute gate. */
function stepOf(power: number): number {
  const lufs = powerToLufs(power) ?? ABSOLUTE_GATE_LUFS;
  return Math.min(STEPS - 1, Math.max(0, Math.floor((lufs - ABSOLUTE_GATE_LUFS) / STEP_LU)));
}
