import { createInterpolator, interpolatedPeak } from '../peak/interpolator';
import { Growable } from '../units/growable';

const { abs, max } = Math;

/** Longer than the meter's, since a limiter must also catch what stands just below half the sample rate. */
const TAPS = 64;
const INTERPOLATOR = createInterpolator(TAPS);
/** What a window reaches to before and behind a frame. */
const BEFORE = TAPS / 2 - 1;
const BEHIND = TAPS / 2;
const ROUNDING_GUARD = 1 + 1e-9;
/** The limiter's gain is computed about so often. */
const NODES_PER_SECOND = 6000;

/** Frames of a node: those whose greatest true peak is kept as one value. */
export function nodeFrames(sampleRateHz: number): number {
  return max(1, Math.round(sampleRateHz / NODES_PER_SECOND));
}

/**
 * Greatest true peak over all channels (linear) of every node of a programme, by 16× oversampling with 64 taps a phase.
 * A node holds what stands at its frames and between each and the next; the first and the last also what rings ahead
 * of the programme and behind it. Doesn't depend on how the frames are cut.
 */
export class PeakEnvelope {
  readonly #nodes = new Growable(Float32Array);
  readonly #nodeFrames: number;
  readonly #floor: number;
  /** Per channel: what is still to be searched, with the frames that its windows reach to around it. */
  readonly #samples: Float32Array[];
  /** Frames held, the reach before included. At first that is silence, and so is what rings ahead. */
  #filled = BEFORE + TAPS;
  /** Frame number of the first frame to be searched. */
  #frame = -TAPS;
  #node = 0;

  /**
   * @param floor linear; nodes that are below it need not be told apart, and may hold their samples' peak only
   * @param maxFrames of one call of `process`
   */
  constructor(options: { sampleRateHz: number; channels: number; floor: number; maxFrames: number }) {
    this.#nodeFrames = nodeFrames(options.sampleRateHz);
    this.#floor = options.floor;
    const room = options.maxFrames + BEFORE + 3 * TAPS;
    this.#samples = Array.from({ length: options.channels }, () => new Float32Array(room));
  }

  process(channels: readonly Float32Array[], frames: number): void {
    this.#samples.forEach((samples, c) => {
      samples.set((channels[c] as Float32Array).subarray(0, frames), this.#filled);
    });
    this.#filled += frames;
    this.#search(this.#filled - BEHIND);
  }

  /** The nodes of a programme of `frames` frames, of which all have been processed. */
  finish(frames: number): Float32Array {
    for (const samples of this.#samples) samples.fill(0, this.#filled, this.#filled + TAPS + BEHIND);
    this.#filled += TAPS + BEHIND;
    this.#search(this.#filled - BEHIND, frames);
    if (frames % this.#nodeFrames !== 0) this.#close();
    return this.#nodes.view().slice();
  }

  /** Searches up to a place in the buffer; at the end, the last node takes what rings behind the programme. */
  #search(end: number, programmeFrames = Number.POSITIVE_INFINITY): void {
    let at = BEFORE;
    while (at < end) {
      const nodeEnd = (this.#nodes.length + 1) * this.#nodeFrames;
      const isLast = nodeEnd >= programmeFrames;
      const until = isLast ? end : Math.min(end, at + nodeEnd - this.#frame);
      // Of what is not whole yet, no more than is searched in one go, so that bounds stay near.
      const stop = Math.min(until, at + TAPS);
      this.#searchFrames(at, stop);
      this.#frame += stop - at;
      at = stop;
      if (!isLast && this.#frame === nodeEnd) this.#close();
    }
    if (programmeFrames !== Number.POSITIVE_INFINITY && programmeFrames % this.#nodeFrames === 0) this.#close();
    const keptFrom = at - BEFORE;
    for (const samples of this.#samples) samples.copyWithin(0, keptFrom, this.#filled);
    this.#filled -= keptFrom;
  }

  #close(): void {
    this.#nodes.push(this.#node);
    this.#node = 0;
  }

  #searchFrames(start: number, end: number): void {
    for (const samples of this.#samples) {
      let magnitude = 0;
      let curvature = 0;
      for (let i = start - BEFORE; i < end + BEHIND; i++) magnitude = max(magnitude, abs(samples[i] as number));
      for (let i = start; i < end; i++) this.#node = max(this.#node, abs(samples[i] as number));
      if (magnitude * INTERPOLATOR.l1Norm * ROUNDING_GUARD <= max(this.#node, this.#floor)) continue;
      for (let i = start - BEFORE + 1; i < end + BEHIND - 1; i++) {
        const bend = (samples[i - 1] as number) - 2 * (samples[i] as number) + (samples[i + 1] as number);
        curvature = max(curvature, abs(bend));
      }
      const reach = curvature * INTERPOLATOR.curvatureNorm;
      for (let i = start; i < end; i++) {
        const nearest = max(abs(samples[i] as number), abs(samples[i + 1] as number));
        if ((nearest + reach) * ROUNDING_GUARD <= max(this.#node, this.#floor)) continue;
        this.#node = max(this.#node, interpolatedPeak(INTERPOLATOR, samples, i - BEFORE));
      }
    }
  }
}
