import {
  LIMITER_CURVATURE_WEIGHTS,
  LIMITER_LONG,
  LIMITER_NORMS,
  LIMITER_SHORT,
  type NodeSearcher,
  nodeFrames,
  searcherRoom,
} from '@/core/limiter/peak-envelope';
import { createInterpolator, type Interpolator } from '@/core/peak/interpolator';
import { READING_TAPS } from '@/core/peak/peak-reading';
import { LIMITER_WASM } from './generated/limiter-wasm';
import { instantiate, MemoryLayout } from './memory';

/** What the module exports; addresses and counts are plain numbers. */
interface LimiterExports {
  setTables(long: number, short: number, weights: number, l1Norm: number, found: number): void;
  setReading(taps: number): void;
  survey(samples: number, blocks: number, ...tables: number[]): void;
  searchNodes(
    buffer: number,
    bends: number,
    roundings: number,
    reaches: number,
    bounds: number,
    from: number,
    width: number,
    nodes: number,
    count: number,
    least: number,
  ): void;
}

const BLOCK_FRAMES = 16;
/** Of the mirrored pairs of phases, four are taken at a time. */
const PAIRS_AT_ONCE = 4;
const PAIRS = 8;
/** Frames that are searched side by side. */
const LANES = 4;
/** Read beside what is surveyed, and never looked at. */
const MARGIN_BYTES = 64;

/** Where a channel's samples stand, and what is known of them. */
interface ChannelPlaces {
  buffer: number;
  bends: number;
  /** Of each block. */
  roundings: number;
  reaches: number;
  bounds: number;
}

/** The limiter's search for true peaks in WebAssembly: what the reference finds, to the rounding of f32. */
export class KernelSearcher implements NodeSearcher {
  readonly samples: readonly Float32Array[];
  readonly #exports: LimiterExports;
  readonly #places: ChannelPlaces[];
  readonly #nodes: Float32Array;
  /** Room for what a survey finds out first. */
  readonly #magnitudes: number;
  readonly #curvatures: number;

  constructor(options: { sampleRateHz: number; channels: number; maxFrames: number }) {
    const blocks = Math.ceil(searcherRoom(options.sampleRateHz, options.maxFrames) / BLOCK_FRAMES);
    const room = blocks * BLOCK_FRAMES;
    const layout = new MemoryLayout();
    const long = layout.reserve(4 * 2 * PAIRS * (LIMITER_LONG.taps / 2));
    const short = layout.reserve(4 * 2 * PAIRS * (LIMITER_SHORT.taps / 2));
    const reading = layout.reserve(4 * READING_TAPS.length);
    const weights = layout.reserve(4 * LIMITER_LONG.taps);
    // The first node and the last take in what rings, too.
    const found = layout.reserve(4 * (nodeFrames(options.sampleRateHz) + LIMITER_LONG.taps + LANES));
    const nodes = layout.reserve(4 * room);
    this.#magnitudes = layout.reserve(4 * blocks);
    this.#curvatures = layout.reserve(4 * blocks);
    this.#places = Array.from({ length: options.channels }, () => {
      const buffer = layout.reserve(4 * room + 2 * MARGIN_BYTES) + MARGIN_BYTES;
      const bends = layout.reserve(4 * room + MARGIN_BYTES);
      const [roundings, reaches, bounds] = [4 * blocks, 4 * blocks, 4 * blocks].map((bytes) => layout.reserve(bytes));
      return { buffer, bends, roundings, reaches, bounds } as ChannelPlaces;
    });
    const { exports, memory } = instantiate<LimiterExports>(LIMITER_WASM, layout);
    this.#exports = exports;
    this.samples = this.#places.map(({ buffer }) => new Float32Array(memory, buffer, room));
    this.#nodes = new Float32Array(memory, nodes, room);
    new Float32Array(memory, long).set(tableOf(createInterpolator(LIMITER_LONG)));
    new Float32Array(memory, short).set(tableOf(createInterpolator(LIMITER_SHORT)));
    new Float32Array(memory, weights).set(LIMITER_CURVATURE_WEIGHTS);
    new Float32Array(memory, reading).set(READING_TAPS);
    exports.setTables(long, short, weights, LIMITER_NORMS.l1, found);
    exports.setReading(reading);
  }

  prepare(filled: number): void {
    const blocks = Math.ceil(filled / BLOCK_FRAMES);
    for (const { buffer, bends, roundings, reaches, bounds } of this.#places) {
      const tables = [bends, this.#magnitudes, this.#curvatures, roundings, reaches, bounds] as const;
      this.#exports.survey(buffer, blocks, ...tables);
    }
  }

  search(channel: number, from: number, width: number, nodes: Float32Array, least: number): void {
    const { buffer, bends, roundings, reaches, bounds } = this.#places[channel] as ChannelPlaces;
    const own = this.#nodes.subarray(0, nodes.length);
    own.set(nodes);
    const tables = [bends, roundings, reaches, bounds] as const;
    this.#exports.searchNodes(buffer, ...tables, from, width, own.byteOffset, nodes.length, least);
    nodes.set(own);
  }
}

/** A filter as the kernel reads it: for four pairs of phases, at each tap their even parts and then their odd ones. */
function tableOf({ taps, even, odd }: Interpolator): Float32Array {
  const half = taps / 2;
  const table = new Float32Array(2 * PAIRS * half);
  let to = 0;
  for (let first = 0; first < PAIRS; first += PAIRS_AT_ONCE) {
    for (let i = 0; i < half; i++) {
      for (const part of [even, odd]) {
        for (let pair = first; pair < first + PAIRS_AT_ONCE; pair++) table[to++] = part[pair * half + i] as number;
      }
    }
  }
  return table;
}
