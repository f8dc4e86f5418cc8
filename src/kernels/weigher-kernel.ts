import type { FineEnergies, FineWeigher, FineWeigherOptions } from '@/core/limiter/fine-energy';
import { kWeighting } from '@/core/loudness/k-weighting';
import { LIMITER_WASM } from './generated/limiter-wasm';
import { instantiate, MemoryLayout } from './memory';

interface WeigherExports {
  setFilter(b0: number, b1: number, b2: number, a1: number, a2: number, c1: number, c2: number): void;
  weighPair(
    left: number,
    right: number,
    frames: number,
    states: number,
    entries: number,
    passed: number,
    width: number,
  ): void;
}

/** Of a node and a pair of channels: two weighted sums, two plain ones. */
const ENTRY_VALUES = 4;
const STATE_BYTES = 64;

/** Two channels that are weighed side by side; of an odd number, the last one's other is silence. */
interface PairPlaces {
  samples: [Float32Array, Float32Array];
  states: number;
  entries: Float64Array;
}

/** The limiter's fine energies in WebAssembly: what the reference adds up, in the same order. */
export class KernelWeigher implements FineWeigher {
  readonly #exports: WeigherExports;
  readonly #pairs: PairPlaces[];
  readonly #weights: readonly number[];
  readonly #width: number;
  readonly #result: FineEnergies;
  #passed = 0;

  constructor({ sampleRateHz, weights, width, maxFrames }: FineWeigherOptions) {
    const nodes = Math.ceil(maxFrames / width) + 2;
    const layout = new MemoryLayout();
    const places = Array.from({ length: Math.ceil(weights.length / 2) }, () => ({
      samples: [layout.reserve(4 * maxFrames), layout.reserve(4 * maxFrames)] as const,
      states: layout.reserve(STATE_BYTES),
      entries: layout.reserve(8 * ENTRY_VALUES * nodes),
    }));
    const { exports, memory } = instantiate<WeigherExports>(LIMITER_WASM, layout);
    this.#exports = exports;
    this.#pairs = places.map(({ samples: [left, right], states, entries }) => ({
      samples: [new Float32Array(memory, left, maxFrames), new Float32Array(memory, right, maxFrames)],
      states,
      entries: new Float64Array(memory, entries, ENTRY_VALUES * nodes),
    }));
    this.#weights = weights;
    this.#width = width;
    this.#result = { weighted: new Float32Array(nodes), plain: new Float32Array(nodes) };
    const { shelf, highPass } = kWeighting(sampleRateHz);
    const gain = highPass.b0;
    exports.setFilter(shelf.b0 * gain, shelf.b1 * gain, shelf.b2 * gain, shelf.a1, shelf.a2, highPass.a1, highPass.a2);
  }

  process(channels: readonly Float32Array[], frames: number): FineEnergies {
    this.#pairs.forEach(({ samples: [left, right], states, entries }, pair) => {
      left.set((channels[2 * pair] as Float32Array).subarray(0, frames));
      const other = channels[2 * pair + 1];
      if (other) right.set(other.subarray(0, frames));
      const places = [left.byteOffset, right.byteOffset, frames, states, entries.byteOffset] as const;
      this.#exports.weighPair(...places, this.#passed, this.#width);
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
    this.#pairs.forEach(({ entries }, pair) => {
      const first = this.#weights[2 * pair] as number;
      const second = this.#weights[2 * pair + 1] ?? 0;
      for (let node = 0, at = 0; node < count; node++, at += ENTRY_VALUES) {
        const own = first * (entries[at] as number) + second * (entries[at + 1] as number);
        weighted[node] = (weighted[node] as number) + own;
        plain[node] = (plain[node] as number) + (entries[at + 2] as number) + (entries[at + 3] as number);
      }
      entries.copyWithin(0, ENTRY_VALUES * count, ENTRY_VALUES * (count + 1));
      entries.fill(0, ENTRY_VALUES);
    });
    return { weighted, plain };
  }
}
