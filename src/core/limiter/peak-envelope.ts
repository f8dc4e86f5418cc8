import { createInterpolator, type InterpolatorShape, interpolatedPeak } from '../peak/interpolator';
import { READING_BEFORE, READING_BEHIND, readPeak } from '../peak/peak-reading';

const { abs, max, min } = Math;

/**
 * Longer than the meter's search, since a limiter must also catch what stands just below half the sample rate. There filters of
 * different lengths differ by some tenths of a decibel, either way: what is limited must hold for this one, for a short one as
 * other meters have, and for what our meter reads.
 */
export const LIMITER_LONG: InterpolatorShape = { taps: 64, kaiserBeta: 8 };
export const LIMITER_SHORT: InterpolatorShape = { taps: 32, kaiserBeta: 8 };
/** Frames ahead of a programme, and behind it, in which it may still ring. */
const RINGING = LIMITER_LONG.taps;
/** The limiter's gain is computed about so often. */
const NODES_PER_SECOND = 6000;

/** Frames of a node: those whose greatest true peak is kept as one value. */
export function nodeFrames(sampleRateHz: number): number {
  return max(1, Math.round(sampleRateHz / NODES_PER_SECOND));
}

/** Finds true peaks in samples that it holds itself: the reference below, or the kernel. */
export interface NodeSearcher {
  /** For each channel, room for the samples of one turn and what windows reach to around them. */
  readonly samples: readonly Float32Array[];
  /** Says up to where the samples have been set anew. */
  prepare(filled: number): void;
  /**
   * Raises consecutive nodes of `width` frames by the true peaks (linear) of one channel, from sample `from` on. What is
   * no more than `least` need not be told apart from less.
   */
  search(channel: number, from: number, width: number, nodes: Float32Array, least: number): void;
}

/** How many samples a channel of a searcher needs room for. */
export function searcherRoom(sampleRateHz: number, maxFrames: number): number {
  return READING_BEFORE + 3 * RINGING + 2 * READING_BEHIND + nodeFrames(sampleRateHz) + maxFrames;
}

/**
 * Greatest true peak (linear) of every node of a programme, for groups of channels, by 16× oversampling with 64 taps a
 * phase and with 32; and what stands out by these is read as the meter reads it.
 * A node holds what stands at its frames and between each and the next; the first and the last also what rings ahead
 * of the programme and behind it. Nodes that do not exceed the floor are 0. No result depends on how the frames are cut.
 */
export class PeakEnvelope {
  readonly #width: number;
  readonly #floor: number;
  readonly #groups: readonly (readonly number[])[];
  readonly #searcher: NodeSearcher;
  /** For each group, the nodes of one turn. */
  readonly #nodes: Float32Array[];
  /** Samples held. At first that is silence: what rings ahead is searched with the first node. */
  #filled = READING_BEFORE + RINGING;
  /** Frames that the next node takes in ahead of its own. */
  #ahead = RINGING;

  /**
   * @param options.groups channels whose greatest peak is one
   * @param options.maxFrames of one call of `process`
   */
  constructor(options: {
    sampleRateHz: number;
    groups: readonly (readonly number[])[];
    floor: number;
    maxFrames: number;
    searcher: NodeSearcher;
  }) {
    this.#width = nodeFrames(options.sampleRateHz);
    this.#floor = options.floor;
    this.#groups = options.groups;
    this.#searcher = options.searcher;
    const most = Math.ceil((options.maxFrames + READING_BEHIND + 2 * RINGING) / this.#width) + 1;
    this.#nodes = options.groups.map(() => new Float32Array(most));
  }

  /** @returns for each group, the nodes that are whole now: views that the next call writes to again */
  process(channels: readonly Float32Array[], frames: number): Float32Array[] {
    this.#searcher.samples.forEach((samples, c) => {
      samples.set((channels[c] as Float32Array).subarray(0, frames), this.#filled);
    });
    this.#filled += frames;
    // The node that may be the programme's last waits for what rings behind it.
    return this.#search(this.#filled - READING_BEHIND - RINGING, 0);
  }

  /** The nodes that are left. */
  finish(): Float32Array[] {
    const end = this.#filled;
    this.#filled += RINGING + READING_BEHIND;
    for (const samples of this.#searcher.samples) samples.fill(0, end, this.#filled);
    return this.#search(end, RINGING);
  }

  /** @param behind frames that the last node takes in behind `end`, at the end of a programme */
  #search(end: number, behind: number): Float32Array[] {
    const width = this.#width;
    const first = READING_BEFORE + this.#ahead;
    const left = max(0, end - first);
    const count = behind > 0 ? Math.ceil(left / width) : Math.floor(left / width);
    const nodes = this.#nodes.map((all) => all.subarray(0, count).fill(0));
    if (count === 0) return nodes;
    this.#searcher.prepare(this.#filled);
    this.#groups.forEach((channels, g) => {
      const own = nodes[g] as Float32Array;
      for (const channel of channels) this.#searchChannel(channel, own, first, behind > 0 ? end + behind : 0);
      for (let k = 0; k < count; k++) if ((own[k] as number) <= this.#floor) own[k] = 0;
    });
    const keptFrom = min(this.#filled, first + count * width) - READING_BEFORE;
    for (const samples of this.#searcher.samples) samples.copyWithin(0, keptFrom, this.#filled);
    this.#filled -= keptFrom;
    this.#ahead = 0;
    return nodes;
  }

  #searchChannel(channel: number, nodes: Float32Array, first: number, end: number): void {
    const width = this.#width;
    const search = (from: number, frames: number, of: Float32Array) => {
      if (of.length > 0 && frames > 0) this.#searcher.search(channel, from, frames, of, this.#floor);
    };
    search(first, width, end > 0 ? nodes.subarray(0, -1) : nodes);
    if (this.#ahead > 0) search(READING_BEFORE, this.#ahead, nodes.subarray(0, 1));
    const last = first + (nodes.length - 1) * width;
    if (end > 0) search(last, end - last, nodes.subarray(-1));
  }
}

const LONG = createInterpolator(LIMITER_LONG);
const SHORT = createInterpolator(LIMITER_SHORT);
/** What their windows reach to before and behind a frame. */
const BEFORE = LIMITER_LONG.taps / 2 - 1;
const BEHIND = LIMITER_LONG.taps / 2;
const SHORT_BEFORE = LIMITER_SHORT.taps / 2 - 1;
/** For either filter: |y| ≤ l1Norm · max|x|, and |y| ≤ max(|xₙ|, |xₙ₊₁|) + curvatureNorm · max|Δ²x|, over the window. */
export const LIMITER_NORMS = {
  l1: max(LONG.l1Norm, SHORT.l1Norm),
  curvature: max(LONG.curvatureNorm, SHORT.curvatureNorm),
};
/** For the curvature around each frame from 30 before on, the greatest weight that any phase of either filter gives to it. */
export const LIMITER_CURVATURE_WEIGHTS = LONG.curvatureWeights.map((weight, i) =>
  max(weight, SHORT.curvatureWeights[i - (LIMITER_LONG.taps - LIMITER_SHORT.taps) / 2] ?? 0),
);
const ROUNDING_GUARD = 1 + 1e-9;
/** Of a node's peaks, all that these filters put so near to the greatest are read. */
const NEARLY_GREATEST = 0.95;

/** The plain search: in f64, every frame that may matter by itself. */
export class ReferenceSearcher implements NodeSearcher {
  readonly samples: readonly Float32Array[];

  constructor(channels: number, room: number) {
    this.samples = Array.from({ length: channels }, () => new Float32Array(room));
  }

  prepare(): void {
    // Nothing is worked out ahead.
  }

  search(channel: number, from: number, width: number, nodes: Float32Array, least: number): void {
    const samples = this.samples[channel] as Float32Array;
    for (let k = 0; k < nodes.length; k++) {
      nodes[k] = searched(samples, from + k * width, from + (k + 1) * width, nodes[k] as number, least);
    }
  }
}

function searched(samples: Float32Array, start: number, end: number, peak: number, least: number): number {
  const beaten = max(peak, least);
  let magnitude = 0;
  for (let i = start - BEFORE; i < end + BEHIND; i++) magnitude = max(magnitude, abs(samples[i] as number));
  if (magnitude * LIMITER_NORMS.l1 * ROUNDING_GUARD <= NEARLY_GREATEST * beaten) return peak;
  let curvature = 0;
  for (let i = start - BEFORE + 1; i < end + BEHIND - 1; i++) {
    const bend = (samples[i - 1] as number) - 2 * (samples[i] as number) + (samples[i + 1] as number);
    curvature = max(curvature, abs(bend));
  }
  const reach = curvature * LIMITER_NORMS.curvature;
  let greatest = beaten;
  const found = Float64Array.from({ length: end - start }, (_, n) => {
    const i = start + n;
    const here = abs(samples[i] as number);
    const nearest = max(here, abs(samples[i + 1] as number));
    if ((nearest + reach) * ROUNDING_GUARD <= NEARLY_GREATEST * greatest) return 0;
    const byLong = interpolatedPeak(LONG, samples, i - BEFORE);
    const value = max(here, byLong, interpolatedPeak(SHORT, samples, i - SHORT_BEFORE));
    greatest = max(greatest, value);
    return value;
  });
  let node = peak;
  found.forEach((value, n) => {
    node = max(node, value);
    if (value > NEARLY_GREATEST * greatest) node = max(node, readPeak(samples, start + n, 0));
  });
  return node;
}
