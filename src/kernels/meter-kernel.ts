import { kWeighting } from '@/core/loudness/k-weighting';
import type { ChannelResult, EngineOptions, MeterEngine } from '@/core/loudness/meter-engine';
import type { ClippedRun } from '@/core/peak/clipped-runs';
import { createInterpolator } from '@/core/peak/interpolator';
import { BINS_PER_SECOND, TICKS_PER_SECOND } from '@/core/units/frames';
import { GrowableFloat64 } from '@/core/units/growable';
import { METER_WASM } from './generated/meter-wasm';

/** What the module exports; addresses and counts are plain numbers. */
interface MeterExports {
  channelBytes(): number;
  setInterpolator(
    even: number,
    odd: number,
    scratch: number,
    weights: number,
    l1Norm: number,
    curvatureNorm: number,
  ): void;
  createChannel(at: number, rate: number, ...arrays: number[]): void;
  setFilter(at: number, ...coefficients: number[]): void;
  process(first: number, second: number, frames: number): void;
  finish(first: number, second: number): void;
  readCounts(at: number, to: number): void;
  readTotals(at: number, to: number): void;
  waiting(at: number): number;
  unpackStereoInt24(from: number, left: number, right: number, quads: number): void;
  unpackStereoInt16(from: number, left: number, right: number, quads: number): void;
  unpackInt16(from: number, stride: number, to: number, frames: number): void;
  unpackInt24(from: number, stride: number, to: number, frames: number): void;
  unpackInt32(from: number, stride: number, to: number, frames: number): void;
  unpackFloat32(from: number, stride: number, to: number, frames: number): number;
}

/** Two blocks of context, a block that waits, and the silence behind the end. */
const BLOCK_FRAMES = 16;
const MARGIN_FRAMES = 8 * BLOCK_FRAMES;
const CONTEXT_FRAMES = 32;
const RUNS_KEPT = 1000;
const BUCKET_FRAMES = 256;
const FIRST_FREE_BYTE = 1024;
const PAGE_BYTES = 65_536;

let compiled: WebAssembly.Module | undefined;

/** Compiled once a thread; the module is some kilobytes. */
function meterModule(): WebAssembly.Module {
  compiled ??= new WebAssembly.Module(Uint8Array.from(atob(METER_WASM), (character) => character.charCodeAt(0)));
  return compiled;
}

class ChannelView {
  readonly binPeaks = new GrowableFloat64();
  readonly binFrames = new GrowableFloat64();
  readonly binSquares = new GrowableFloat64();
  readonly low = new GrowableFloat64();
  readonly high = new GrowableFloat64();
  readonly runs: ClippedRun[] = [];
  squares = 0;

  constructor(
    readonly at: number,
    readonly samples: number,
    readonly ticks: Float64Array,
    readonly areas: {
      binPeaks: Float64Array;
      binFrames: Float64Array;
      binSquares: Float64Array;
      waveMin: Float32Array;
      waveMax: Float32Array;
      runs: Float64Array;
    },
  ) {}
}

/**
 * The meter's hot loops in WebAssembly, with a memory of its own; the same results as the reference engine (peaks and
 * clipped runs bit for bit, energies within 1e-9 dB). It also unpacks samples, straight to where it measures them.
 */
export class MeterKernel implements MeterEngine {
  tickCount = 0;
  /** Where interleaved samples may be put, to be unpacked. */
  readonly bytes: Uint8Array;
  readonly #options: EngineOptions;
  readonly #exports: MeterExports;
  readonly #memory: WebAssembly.Memory;
  readonly #channels: ChannelView[];
  readonly #counts: Int32Array;
  readonly #totals: Float64Array;
  readonly #bytesAt: number;

  /** @param frameBytes bytes of one interleaved frame, where samples are to be unpacked here */
  constructor(options: EngineOptions, frameBytes = 0) {
    const { sampleRateHz, channels, maxFrames } = options;
    this.#options = options;
    const frames = maxFrames + MARGIN_FRAMES;
    const ticks = Math.ceil((frames * TICKS_PER_SECOND) / sampleRateHz) + 2;
    const bins = Math.ceil((frames * BINS_PER_SECOND) / sampleRateHz) + 3;
    const blocks = Math.ceil(frames / BLOCK_FRAMES) + 8;
    const buckets = Math.ceil(frames / BUCKET_FRAMES) + 2;
    const interpolator = createInterpolator();
    const perChannel = 1024 + 8 * frames + 8 * blocks + 8 * ticks + 24 * bins + 8 * buckets + 16 * RUNS_KEPT + 16 * 16;
    const total = FIRST_FREE_BYTE + 8192 + channels * perChannel + (maxFrames + 1) * frameBytes + 64;
    this.#memory = new WebAssembly.Memory({ initial: Math.ceil(total / PAGE_BYTES) });
    const instance = new WebAssembly.Instance(meterModule(), {
      env: { memory: this.#memory, abort: () => undefined },
    });
    this.#exports = instance.exports as unknown as MeterExports;

    let free = FIRST_FREE_BYTE;
    const take = (bytes: number) => {
      const at = free;
      free = Math.ceil((at + bytes) / 16) * 16;
      return at;
    };
    const { buffer } = this.#memory;
    const float64 = (length: number) => new Float64Array(buffer, take(8 * length), length);
    const float32 = (length: number) => new Float32Array(buffer, take(4 * length), length);

    const even = float64(interpolator.even.length);
    even.set(interpolator.even);
    const odd = float64(interpolator.odd.length);
    odd.set(interpolator.odd);
    const scratch = take(512);
    const { l1Norm, curvatureNorm, curvatureWeights } = interpolator;
    const weights = float32(curvatureWeights.length);
    weights.set(curvatureWeights);
    this.#exports.setInterpolator(even.byteOffset, odd.byteOffset, scratch, weights.byteOffset, l1Norm, curvatureNorm);
    this.#counts = new Int32Array(buffer, take(32), 5);
    this.#totals = float64(5);

    const { shelf, highPass } = kWeighting(sampleRateHz);
    const gain = highPass.b0;
    this.#channels = Array.from({ length: channels }, () => {
      const at = take(this.#exports.channelBytes());
      const samples = float32(CONTEXT_FRAMES + frames);
      const curvatures = float32(CONTEXT_FRAMES + frames);
      const blockMagnitudes = float32(blocks);
      const blockCurvatures = float32(blocks);
      const tickArea = float64(ticks);
      const areas = {
        binPeaks: float64(bins),
        binFrames: float64(bins),
        binSquares: float64(bins),
        waveMin: float32(buckets),
        waveMax: float32(buckets),
        runs: float64(2 * RUNS_KEPT),
      };
      const places = [samples, curvatures, blockMagnitudes, blockCurvatures, tickArea, ...Object.values(areas)].map(
        ({ byteOffset }) => byteOffset,
      );
      this.#exports.createChannel(at, sampleRateHz, ...places);
      const { b0, b1, b2, a1, a2 } = shelf;
      this.#exports.setFilter(at, b0 * gain, b1 * gain, b2 * gain, a1, a2, highPass.a1, highPass.a2);
      return new ChannelView(at, samples.byteOffset, tickArea, areas);
    });
    // One byte ahead, so that a 24-bit sample can be loaded together with the byte before it.
    this.#bytesAt = take((maxFrames + 1) * frameBytes) + 1;
    this.bytes = new Uint8Array(buffer, this.#bytesAt, maxFrames * frameBytes);
  }

  process(channels: readonly Float32Array[], frames: number): void {
    const waiting = this.#waiting();
    this.#channels.forEach(({ samples }, index) => {
      const source = channels[index] as Float32Array;
      const target = new Float32Array(this.#memory.buffer, samples + 4 * (CONTEXT_FRAMES + waiting), frames);
      // Samples that were unpacked here lie where they belong already.
      if (source.buffer !== target.buffer || source.byteOffset !== target.byteOffset) {
        target.set(source.length === frames ? source : source.subarray(0, frames));
      }
    });
    this.#pairs((first, second) => this.#exports.process(first, second, frames));
    this.#collect();
  }

  /** Unpacks frames from `bytes` to where process expects them, and returns them and how many samples were not finite. */
  unpack(frames: number, containerBits: number, sampleFormat: 'integer' | 'float') {
    const waiting = this.#waiting();
    const planar = this.#channels.map(
      ({ samples }) => new Float32Array(this.#memory.buffer, samples + 4 * (CONTEXT_FRAMES + waiting), frames),
    );
    const sampleBytes = containerBits / 8;
    const done = sampleFormat === 'integer' && planar.length === 2 ? this.#unpackStereo(planar, containerBits) : 0;
    const stride = sampleBytes * planar.length;
    let nonFinite = 0;
    planar.forEach((samples, index) => {
      const to = samples.byteOffset + 4 * done;
      const from = this.#bytesAt + done * stride + index * sampleBytes;
      const left = frames - done;
      if (sampleFormat === 'float') nonFinite += this.#exports.unpackFloat32(from, stride, to, left);
      else if (containerBits === 16) this.#exports.unpackInt16(from, stride, to, left);
      else if (containerBits === 24) this.#exports.unpackInt24(from - 1, stride, to, left);
      else this.#exports.unpackInt32(from, stride, to, left);
    });
    return { planar, nonFinite };
  }

  /** Unpacks all but the last few frames of a stereo piece, four at a time; returns how many. */
  #unpackStereo([left, right]: readonly Float32Array[], containerBits: number): number {
    if (!left || !right) return 0;
    const quads = Math.floor(left.length / 4);
    if (containerBits === 24) {
      this.#exports.unpackStereoInt24(this.#bytesAt, left.byteOffset, right.byteOffset, quads);
    } else if (containerBits === 16) {
      this.#exports.unpackStereoInt16(this.#bytesAt, left.byteOffset, right.byteOffset, quads);
    } else {
      return 0;
    }
    return quads * 4;
  }

  finish(): void {
    this.#pairs((first, second) => this.#exports.finish(first, second));
    this.#collect();
  }

  ticks(channel: number): Float64Array {
    return (this.#channels[channel] as ChannelView).ticks;
  }

  result(channel: number): ChannelResult {
    const view = this.#channels[channel] as ChannelView;
    this.#exports.readTotals(view.at, this.#totals.byteOffset);
    const [sum, openSquares, samplePeak, samplePeakFrame, clippedRunCount] = this.#totals as unknown as number[];
    return {
      truePeaks: view.binPeaks.view().slice(),
      truePeakFrames: view.binFrames.view().slice(),
      samplePeak: samplePeak as number,
      samplePeakFrame: samplePeakFrame as number,
      sum: sum as number,
      sumOfSquares: view.squares + (openSquares as number),
      binSumsOfSquares: view.binSquares.view().slice(),
      clippedRunCount: clippedRunCount as number,
      clippedRuns: view.runs,
      waveform: this.#options.waveform
        ? { min: Float32Array.from(view.low.view()), max: Float32Array.from(view.high.view()) }
        : undefined,
    };
  }

  #waiting(): number {
    return this.#exports.waiting((this.#channels[0] as ChannelView).at);
  }

  #pairs(run: (first: number, second: number) => void): void {
    for (let c = 0; c < this.#channels.length; c += 2) {
      run((this.#channels[c] as ChannelView).at, this.#channels[c + 1]?.at ?? 0);
    }
  }

  /** Takes over what the last call completed, before the next one writes over it. */
  #collect(): void {
    for (const view of this.#channels) {
      this.#exports.readCounts(view.at, this.#counts.byteOffset);
      const [tickCount, bins, squareBins, buckets, runs] = this.#counts as unknown as [
        number,
        number,
        number,
        number,
        number,
      ];
      this.tickCount = tickCount;
      const { areas } = view;
      for (let i = 0; i < bins; i++) {
        view.binPeaks.push(areas.binPeaks[i] as number);
        view.binFrames.push(areas.binFrames[i] as number);
      }
      for (let i = 0; i < squareBins; i++) {
        view.binSquares.push(areas.binSquares[i] as number);
        view.squares += areas.binSquares[i] as number;
      }
      for (let i = 0; i < runs; i++) {
        view.runs.push({ startFrame: areas.runs[2 * i] as number, frames: areas.runs[2 * i + 1] as number });
      }
      if (!this.#options.waveform) continue;
      for (let i = 0; i < buckets; i++) {
        view.low.push(areas.waveMin[i] as number);
        view.high.push(areas.waveMax[i] as number);
      }
    }
  }
}
