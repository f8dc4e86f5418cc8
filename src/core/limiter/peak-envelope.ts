import { createInterpolator, interpolatedPeak, METER_TAPS } from '../peak/interpolator';
import { Growable } from '../units/growable';

const { abs, max } = Math;

/**
 * Longer than the meter's filter, since a limiter must also catch what stands just below half the sample rate. There the
 * two may differ by some tenths of a decibel, either way: what is limited must hold for both.
 */
const TAPS = 64;
const LONG = createInterpolator(TAPS);
const METER = createInterpolator(METER_TAPS);
const L1_NORM = Math.max(LONG.l1Norm, METER.l1Norm);
const CURVATURE_NORM = Math.max(LONG.curvatureNorm, METER.curvatureNorm);
/** What a window reaches to before and behind a frame. */
const BEFORE = TAPS / 2 - 1;
const BEHIND = TAPS / 2;
const METER_BEFORE = METER_TAPS / 2 - 1;
const ROUNDING_GUARD = 1 + 1e-9;
/** So many nodes in a row are passed over at once where nothing near them reaches the floor. */
const PASSED_NODES = 64;
/** The limiter's gain is computed about so often. */
const NODES_PER_SECOND = 6000;

/** Frames of a node: those whose greatest true peak is kept as one value. */
export function nodeFrames(sampleRateHz: number): number {
  return max(1, Math.round(sampleRateHz / NODES_PER_SECOND));
}

/**
 * Greatest true peak over all channels (linear) of every node of a programme, by 16× oversampling with 64 taps a phase,
 * and with the meter's 32.
 * A node holds what stands at its frames and between each and the next; the first and the last also what rings ahead
 * of the programme and behind it. Doesn't depend on how the frames are cut.
 */
export class PeakEnvelope {
  readonly #nodes = new Growable(Float32Array);
  readonly #nodeFrames: number;
  readonly #passedFrames: number;
  readonly #floor: number;
  /** Per channel: what is still to be searched, with the frames that its windows reach to around it. */
  readonly #samples: Float32Array[];
  /** Frames held, the reach before included. At first that is silence, and so is what rings ahead. */
  #filled = BEFORE + TAPS;
  /** Frame number of the first frame to be searched. */
  #frame = -TAPS;
  #node = 0;

  /**
   * @param floor linear; what is below it need not be told apart, and may be given as less
   * @param maxFrames of one call of `process`
   */
  constructor(options: { sampleRateHz: number; channels: number; floor: number; maxFrames: number }) {
    this.#nodeFrames = nodeFrames(options.sampleRateHz);
    this.#floor = options.floor;
    this.#passedFrames = PASSED_NODES * this.#nodeFrames;
    const room = options.maxFrames + this.#passedFrames + BEFORE + 3 * TAPS;
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
      if (this.#frame > 0 && this.#frame % this.#passedFrames === 0) {
        const isThere = this.#passedFrames <= end - at;
        // What is not there yet is looked at as a whole later, so that no result depends on how the frames are cut.
        if (!isThere && programmeFrames === Number.POSITIVE_INFINITY) break;
        if (isThere && this.#frame + this.#passedFrames < programmeFrames && this.#isLow(at)) {
          for (let n = 0; n < PASSED_NODES; n++) this.#close();
          this.#frame += this.#passedFrames;
          at += this.#passedFrames;
          continue;
        }
      }
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

  /** Nothing in the next nodes that are passed over together, or between their samples, can reach the floor. */
  #isLow(start: number): boolean {
    const end = start + this.#passedFrames + BEHIND;
    const least = this.#floor / (L1_NORM * ROUNDING_GUARD);
    for (const samples of this.#samples) {
      for (let i = start - BEFORE; i < end; i++) {
        const x = samples[i] as number;
        if (x > least || x < -least) return false;
      }
    }
    return true;
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
      if (magnitude * L1_NORM * ROUNDING_GUARD <= max(this.#node, this.#floor)) continue;
      for (let i = start - BEFORE + 1; i < end + BEHIND - 1; i++) {
        const bend = (samples[i - 1] as number) - 2 * (samples[i] as number) + (samples[i + 1] as number);
        curvature = max(curvature, abs(bend));
      }
      const reach = curvature * CURVATURE_NORM;
      for (let i = start; i < end; i++) {
        const nearest = max(abs(samples[i] as number), abs(samples[i + 1] as number));
        if ((nearest + reach) * ROUNDING_GUARD <= max(this.#node, this.#floor)) continue;
        const byLong = interpolatedPeak(LONG, samples, i - BEFORE);
        this.#node = max(this.#node, byLong, interpolatedPeak(METER, samples, i - METER_BEFORE));
      }
    }
  }
}
