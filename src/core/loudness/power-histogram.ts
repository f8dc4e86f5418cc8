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
/** Steps that are added up together, so that a gate is found quickly. */
const STEPS_TOGETHER = 500;
const GROUPS = Math.ceil(((TOP_LUFS - ABSOLUTE_GATE_LUFS) / STEP_LU + 1) / STEPS_TOGETHER);
const STEPS = GROUPS * STEPS_TOGETHER;

/**
 * Powers of a line that may sound for days, in memory that does not grow: how many lie in each thousandth of a LU, and their sum. What is
 * read of them is within 0.001 LU of what all of them would give.
 */
export class PowerHistogram {
  readonly #counts = new Float64Array(STEPS);
  readonly #sums = new Float64Array(STEPS);
  readonly #groupCounts = new Float64Array(GROUPS);
  readonly #groupSums = new Float64Array(GROUPS);
  #count = 0;
  #sum = 0;

  /** @param power weighted mean square of 400 ms, or of 3 s */
  add(power: number): void {
    if (!(power >= ABSOLUTE_GATE_POWER)) return;
    const step = stepOf(power);
    this.#counts[step] = (this.#counts[step] as number) + 1;
    this.#sums[step] = (this.#sums[step] as number) + power;
    const group = Math.floor(step / STEPS_TOGETHER);
    this.#groupCounts[group] = (this.#groupCounts[group] as number) + 1;
    this.#groupSums[group] = (this.#groupSums[group] as number) + power;
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
    const first = stepOf(gatePower);
    const nextGroup = Math.floor(first / STEPS_TOGETHER) + 1;
    for (let step = first; step < nextGroup * STEPS_TOGETHER; step++) {
      count += this.#counts[step] as number;
      sum += this.#sums[step] as number;
    }
    for (let group = nextGroup; group < GROUPS; group++) {
      count += this.#groupCounts[group] as number;
      sum += this.#groupSums[group] as number;
    }
    return { count, sum };
  }

  /** Loudness of the one at a rank, counted from 0 upwards from a step; there must be so many. */
  #ranked(from: number, rank: number): number {
    let passed = 0;
    let step = from;
    while (step < STEPS - 1) {
      const group = step / STEPS_TOGETHER;
      // A group that does not reach the rank is passed as a whole.
      const isPassed = Number.isInteger(group) && passed + (this.#groupCounts[group] as number) <= rank;
      if (isPassed && step + STEPS_TOGETHER < STEPS) {
        passed += this.#groupCounts[group] as number;
        step += STEPS_TOGETHER;
        continue;
      }
      passed += this.#counts[step] as number;
      if (passed > rank) break;
      step++;
    }
    return powerToLufs((this.#sums[step] as number) / (this.#counts[step] as number)) as number;
  }
}

/** Of a power that passes the absolute gate. */
function stepOf(power: number): number {
  const lufs = powerToLufs(power) ?? ABSOLUTE_GATE_LUFS;
  return Math.min(STEPS - 1, Math.max(0, Math.floor((lufs - ABSOLUTE_GATE_LUFS) / STEP_LU)));
}
