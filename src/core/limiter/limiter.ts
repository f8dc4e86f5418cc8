import { applyTrace } from './apply-trace';
import { gainTrace } from './gain-trace';
import { nodeFrames } from './peak-envelope';

const { max } = Math;

/** How often a trace is made again where what it leaves still exceeds the ceiling. */
const MOST_CORRECTIONS = 3;
/** A peak that came out too high was seen too low, and is raised by a little more than it was. */
const RAISED_BY = 1.05;

export interface LimiterSettings {
  gainDb: number;
  ceilingDbtp: number;
}

/** A true-peak limiter's way through one programme: its peaks, seen once, and the trace that they ask for. */
export class Limiter {
  readonly nodeFrames: number;
  readonly settings: LimiterSettings;
  readonly nodesPerSecond: number;
  readonly #peaks: Float32Array;
  #corrections = 0;
  trace: Float64Array;

  /** @param peaks of the programme as it is, by PeakEnvelope; they are copied */
  constructor(peaks: Float32Array, sampleRateHz: number, settings: LimiterSettings) {
    this.nodeFrames = nodeFrames(sampleRateHz);
    this.nodesPerSecond = sampleRateHz / this.nodeFrames;
    this.settings = settings;
    this.#peaks = peaks.slice();
    this.trace = this.#trace();
  }

  /** Of the ceiling, linear. */
  get ceiling(): number {
    return 10 ** (this.settings.ceilingDbtp / 20);
  }

  /** Turns frames up and down, in place. */
  apply(channels: readonly Float32Array[], frames: number, startFrame: number): void {
    const { trace, nodeFrames: width } = this;
    applyTrace(channels, frames, startFrame, { trace, nodeFrames: width, gainDb: this.settings.gainDb });
  }

  /**
   * Looks at what the trace leaves, and makes another where that exceeds the ceiling: at most three times by raising the
   * peaks that were seen too low, and then, as a last resort, by turning everything down by what is left.
   *
   * @param limited peaks of the limited programme
   * @returns whether the trace has changed, so that the programme has to be limited anew
   */
  correct(limited: Float32Array): boolean {
    const { ceiling } = this;
    const greatest = limited.reduce((most, peak) => max(most, peak), 0);
    if (greatest <= ceiling || this.#corrections > MOST_CORRECTIONS) return false;
    if (this.#corrections++ === MOST_CORRECTIONS) {
      const overDb = 20 * Math.log10(greatest / ceiling);
      this.trace = this.trace.map((reductionDb) => reductionDb + overDb);
      return true;
    }
    limited.forEach((peak, k) => {
      const excess = peak / ceiling;
      if (excess > 1) this.#peaks[k] = max(this.#peaks[k] as number, this.#asked(k)) * excess ** RAISED_BY;
    });
    this.trace = this.#trace();
    return true;
  }

  /** The peak that a node's present reduction would answer to. */
  #asked(node: number): number {
    const { gainDb, ceilingDbtp } = this.settings;
    return 10 ** ((ceilingDbtp - gainDb + (this.trace[node] as number)) / 20);
  }

  #trace(): Float64Array {
    return gainTrace(this.#peaks, { ...this.settings, nodesPerSecond: this.nodesPerSecond });
  }
}

/** Below this, no peak of the source asks for anything at a gain: linear. */
export function envelopeFloor({ gainDb, ceilingDbtp }: LimiterSettings): number {
  // A decibel of room for what corrections raise.
  return 10 ** ((ceilingDbtp - gainDb - 1) / 20);
}
