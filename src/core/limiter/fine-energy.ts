import { KWeightingFilter } from '../loudness/k-weighting';

/** Nodes of a peak envelope in one of those that a limiter is forecast with: some 1000 a second. */
export const FINE_NODES = 6;

/** What a limiter's reduction takes from: for every fine node, sums of squares over its frames. */
export interface FineEnergies {
  /** K-weighted, each channel by its weight in loudness. */
  weighted: Float32Array;
  /** As they are, all channels alike. */
  plain: Float32Array;
}

/** Adds up what goes through it; the arrays returned are views that the next call writes to again. */
export interface FineWeigher {
  /** @returns the nodes that are whole now */
  process(channels: readonly Float32Array[], frames: number): FineEnergies;
  /** @returns what is left of the last one */
  finish(): FineEnergies;
}

export interface FineWeigherOptions {
  sampleRateHz: number;
  /** Weight of each channel in loudness: 0 for low-frequency effects. */
  weights: readonly number[];
  /** Frames of a fine node. */
  width: number;
  /** Of one call of `process`. */
  maxFrames: number;
}

/** The plain way, channel by channel in f64. */
export class ReferenceWeigher implements FineWeigher {
  readonly #filters: KWeightingFilter[];
  readonly #weights: readonly number[];
  readonly #width: number;
  /** For each channel, the sums of the nodes of one turn, of which the first may have been begun. */
  readonly #sums: { weighted: Float64Array; plain: Float64Array }[];
  readonly #result: FineEnergies;
  #passed = 0;

  constructor({ sampleRateHz, weights, width, maxFrames }: FineWeigherOptions) {
    const nodes = Math.ceil(maxFrames / width) + 2;
    this.#filters = weights.map(() => new KWeightingFilter(sampleRateHz));
    this.#weights = weights;
    this.#width = width;
    this.#sums = weights.map(() => ({ weighted: new Float64Array(nodes), plain: new Float64Array(nodes) }));
    this.#result = { weighted: new Float32Array(nodes), plain: new Float32Array(nodes) };
  }

  process(channels: readonly Float32Array[], frames: number): FineEnergies {
    this.#sums.forEach(({ weighted, plain }, channel) => {
      const samples = channels[channel] as Float32Array;
      const filter = this.#filters[channel] as KWeightingFilter;
      for (let start = 0, node = 0; start < frames; node++) {
        const end = Math.min(frames, (node + 1) * this.#width - this.#passed);
        weighted[node] = filter.addSquares(samples, start, end, weighted[node] ?? 0);
        for (let i = start; i < end; i++) plain[node] = (plain[node] ?? 0) + (samples[i] ?? 0) ** 2;
        start = end;
      }
    });
    const reached = this.#passed + frames;
    this.#passed = reached % this.#width;
    return this.#take(Math.floor(reached / this.#width));
  }

  finish(): FineEnergies {
    return this.#take(this.#passed > 0 ? 1 : 0);
  }

  #take(count: number): FineEnergies {
    const weighted = this.#result.weighted.subarray(0, count).fill(0);
    const plain = this.#result.plain.subarray(0, count).fill(0);
    this.#sums.forEach((sums, channel) => {
      for (let node = 0; node < count; node++) {
        const own = (this.#weights[channel] ?? 0) * (sums.weighted[node] ?? 0);
        weighted[node] = (weighted[node] ?? 0) + own;
        plain[node] = (plain[node] ?? 0) + (sums.plain[node] ?? 0);
      }
      for (const values of [sums.weighted, sums.plain]) {
        values.copyWithin(0, count, count + 1);
        values.fill(0, 1);
      }
    });
    return { weighted, plain };
  }
}
