import { kWeighting } from '@/core/loudness/k-weighting';
import {
  type ChannelSegment,
  FOLLOWING_FRAMES,
  RUN_IN_SECONDS,
  SEGMENT_SECONDS,
  type Segment,
} from '@/core/loudness/segment';
import { WAVEFORM_BUCKET_FRAMES } from '@/core/loudness/waveform';
import type { OpenRun } from '@/core/peak/clipped-runs';
import { createInterpolator, type Interpolator } from '@/core/peak/interpolator';
import { BINS_PER_SECOND, TICKS_PER_SECOND } from '@/core/units/frames';
import { SAMPLE_TYPES, type SampleEncoding, sampleBytes } from '@/core/units/sample-encoding';
import { METER_WASM } from './generated/meter-wasm';

/** What the module exports; addresses and counts are plain numbers. */
interface MeterExports {
  channelBytes(): number;
  setInterpolator(
    even: number,
    odd: number,
    scratch: number,
    weights: number,
    screen: number,
    l1Norm: number,
    curvatureNorm: number,
  ): void;
  createChannel(at: number, rate: number, waveBlocks: number, ...arrays: number[]): void;
  setFilter(...coefficients: number[]): void;
  setExactFilter(...coefficients: number[]): void;
  weighExactly(first: number, second: number, frames: number): void;
  weigh(first: number, second: number, third: number, fourth: number, frames: number): void;
  prime(at: number, frames: number): void;
  process(at: number, blocks: number): void;
  finish(at: number, rest: number, following: number): void;
  readCounts(at: number, to: number): void;
  readTotals(at: number, to: number): void;
  unpack(type: number, isBigEndian: boolean, from: number, stride: number, to: number, frames: number): number;
  unpackInt24Stereo(from: number, left: number, right: number, quads: number): void;
  unpackInt16Stereo(from: number, left: number, right: number, quads: number): void;
  unpackFloat32Stereo(from: number, left: number, right: number, quads: number): number;
}

const BLOCK_FRAMES = 16;
/** Channels that are weighed together, in the lanes of a vector. */
const LANES = 4;
const QUAD_FRAMES = 4;
/** Kept in front of a piece: two blocks that an interpolator's window reaches back to, and what bends into them. */
const CONTEXT_FRAMES = 36;
/** Kept behind a piece: the block that is left over and the two behind it. */
const MARGIN_FRAMES = 3 * BLOCK_FRAMES;
const RUNS_KEPT = 1000;
/** Where the module's own data end, by a wide margin: some hundred bytes from the memory base of 1024 on. */
const FIRST_FREE_BYTE = 4096;
const PAGE_BYTES = 65_536;
/** Least frames of one piece: its samples stay in a core's near cache while every loop goes over them. */
const LEAST_PIECE_FRAMES = 4096;
/** Pieces are cut where sums in f32 are handed on, so that these don't depend on the cut. */
const PIECE_STEP = 64;

let compiled: WebAssembly.Module | undefined;

/** Compiled once a thread; the module is some kilobytes. */
function meterModule(): WebAssembly.Module {
  compiled ??= new WebAssembly.Module(Uint8Array.from(atob(METER_WASM), (character) => character.charCodeAt(0)));
  return compiled;
}

/**
 * Copies interleaved frames of the programme, from frame `startFrame` on, to the beginning of `target`; returns how
 * many of the `frames` there were. May throw, and measuring then stops.
 */
export type FrameReader = (target: Uint8Array, startFrame: number, frames: number) => number;

export interface KernelOptions {
  sampleRateHz: number;
  channels: number;
  encoding: SampleEncoding;
  /** Frames of one piece, a multiple of 64; no result depends on it. */
  pieceFrames?: number;
}

interface Part {
  startFrame: number;
  frames: number;
}

/** Where one channel of one segment is measured. */
interface ChannelMemory {
  at: number;
  /** Address of the piece's first sample. */
  samples: number;
  tables: number[];
  ticks: Float64Array;
  squares: Float64Array;
  binPeaks: Float64Array;
  binFrames: Float64Array;
  waveMin: Float32Array;
  waveMax: Float32Array;
  runs: Float64Array;
}

/** A segment that is being measured. */
class Run {
  done = 0;
  /** Frames of the last piece that fill no block. */
  rest = 0;
  nonFiniteSamples = 0;
  ended = false;

  constructor(
    readonly part: Part,
    readonly channels: readonly ChannelMemory[],
  ) {}
}

/**
 * The meter's hot loops in WebAssembly, with a memory of its own that serves one set of segments after the other. The
 * same results as the reference: peaks and clipped runs bit for bit, energies within 1e-5 dB, since they are f32.
 */
export class MeterKernel {
  /** Segments that are best measured together, side by side in the lanes of vectors. */
  readonly segmentsAtOnce: number;
  readonly #options: Required<KernelOptions>;
  readonly #exports: MeterExports;
  readonly #segments: ChannelMemory[][];
  /** The channels of all segments. */
  readonly #lanes: ChannelMemory[];
  /** A channel that stands in lanes that are left over; it is silent. */
  readonly #spare: ChannelMemory;
  readonly #counts: Int32Array;
  readonly #totals: Float64Array;
  readonly #sampleBytes: number;
  readonly #frameBytes: number;
  /** Where frames are read to, interleaved. */
  readonly #bytes: Uint8Array;
  readonly #samples: Float32Array;

  constructor(options: KernelOptions) {
    this.#options = { pieceFrames: usualPiece(options.sampleRateHz), ...options };
    const { channels, encoding, pieceFrames } = this.#options;
    this.segmentsAtOnce = channels === 1 ? LANES : 2;
    this.#sampleBytes = sampleBytes(encoding);
    this.#frameBytes = this.#sampleBytes * channels;

    const layout = new MemoryLayout();
    const interpolator = createInterpolator();
    const even = layout.reserve(8 * interpolator.even.length);
    const odd = layout.reserve(8 * interpolator.odd.length);
    const weights = layout.reserve(4 * interpolator.curvatureWeights.length);
    const scratch = layout.reserve(512);
    const screen = layout.reserve(4 * 2 * interpolator.even.length);
    const counts = layout.reserve(4 * 7);
    const totals = layout.reserve(8 * 6);
    // A vector is loaded whole where only its first bytes belong to the piece.
    const bytes = layout.reserve(pieceFrames * this.#frameBytes + 16);
    const places = Array.from({ length: this.segmentsAtOnce * channels + 1 }, () => this.#reserveChannel(layout));

    const memory = new WebAssembly.Memory({ initial: Math.ceil(layout.bytes / PAGE_BYTES) });
    const { buffer } = memory;
    const instance = new WebAssembly.Instance(meterModule(), { env: { memory, abort: () => undefined } });
    this.#exports = instance.exports as unknown as MeterExports;
    new Float64Array(buffer, even).set(interpolator.even);
    new Float64Array(buffer, odd).set(interpolator.odd);
    new Float32Array(buffer, weights).set(interpolator.curvatureWeights);
    new Float32Array(buffer, screen).set(byTap(interpolator));
    const { l1Norm, curvatureNorm } = interpolator;
    this.#exports.setInterpolator(even, odd, scratch, weights, screen, l1Norm, curvatureNorm);
    this.#setFilter();
    this.#counts = new Int32Array(buffer, counts, 7);
    this.#totals = new Float64Array(buffer, totals, 6);
    this.#bytes = new Uint8Array(buffer, bytes, pieceFrames * this.#frameBytes);
    this.#samples = new Float32Array(buffer);
    this.#lanes = places.map((place) => place(buffer));
    this.#spare = this.#lanes.pop() as ChannelMemory;
    this.#segments = Array.from({ length: this.segmentsAtOnce }, (_, i) =>
      this.#lanes.slice(i * channels, (i + 1) * channels),
    );
  }

  /**
   * Measures segments of one programme of `programmeFrames`, at most `segmentsAtOnce` together. Each begins at a multiple
   * of SEGMENT_SECONDS. Where the reader runs out of frames, a segment ends there.
   */
  measure(read: FrameReader, parts: readonly Part[], programmeFrames: number): Segment[] {
    this.#begin(this.#spare, 0);
    const runs = parts.map((part, i) => new Run(part, this.#segments[i] as ChannelMemory[]));
    for (const run of runs) this.#prime(read, run);
    for (;;) {
      const going = runs.filter(({ ended }) => !ended);
      if (going.length === 0) break;
      this.#takePiece(read, going);
    }
    for (const run of runs) this.#finish(read, run, programmeFrames);
    const segments = runs.map((run) => this.#result(run));
    segments.forEach((segment, i) => {
      if (needsExactness(segment)) this.#weighExactly(read, runs[i] as Run, segment);
    });
    return segments;
  }

  #reserveChannel(layout: MemoryLayout): (buffer: ArrayBuffer) => ChannelMemory {
    const { sampleRateHz, pieceFrames } = this.#options;
    const blocks = pieceFrames / BLOCK_FRAMES + 8;
    const ticks = SEGMENT_SECONDS * TICKS_PER_SECOND + 1;
    const bins = SEGMENT_SECONDS * BINS_PER_SECOND + 1;
    const buckets = Math.ceil((SEGMENT_SECONDS * sampleRateHz) / WAVEFORM_BUCKET_FRAMES) + 2;
    const at = layout.reserve(1024);
    const samples = layout.reserve(4 * (CONTEXT_FRAMES + pieceFrames + MARGIN_FRAMES)) + 4 * CONTEXT_FRAMES;
    const tables = [layout.reserve(4 * blocks), layout.reserve(4 * blocks)];
    const float64 = (length: number) => {
      const offset = layout.reserve(8 * length);
      return (buffer: ArrayBuffer) => new Float64Array(buffer, offset, length);
    };
    const float32 = (length: number) => {
      const offset = layout.reserve(4 * length);
      return (buffer: ArrayBuffer) => new Float32Array(buffer, offset, length);
    };
    const arrays = {
      ticks: float64(ticks),
      squares: float64(ticks),
      binPeaks: float64(bins),
      binFrames: float64(bins),
      waveMin: float32(buckets),
      waveMax: float32(buckets),
      runs: float64(2 * RUNS_KEPT),
    };
    return (buffer) => ({
      at,
      samples,
      tables,
      ticks: arrays.ticks(buffer),
      squares: arrays.squares(buffer),
      binPeaks: arrays.binPeaks(buffer),
      binFrames: arrays.binFrames(buffer),
      waveMin: arrays.waveMin(buffer),
      waveMax: arrays.waveMax(buffer),
      runs: arrays.runs(buffer),
    });
  }

  #setFilter(): void {
    const { shelf, highPass } = kWeighting(this.#options.sampleRateHz);
    const { b0, b1, b2, a1, a2 } = shelf;
    const coefficients = [
      1 + a1 + a2,
      2 + a1,
      1 + (b1 + b2) / b0,
      2 + b1 / b0,
      1 + highPass.a1 + highPass.a2,
      2 + highPass.a1,
      (b0 * highPass.b0) ** 2,
    ];
    this.#exports.setFilter(...coefficients);
    this.#exports.setExactFilter(...coefficients);
  }

  #begin({ at, samples, tables, ...areas }: ChannelMemory, startFrame: number): void {
    const { sampleRateHz } = this.#options;
    const waveBlocks = (startFrame % WAVEFORM_BUCKET_FRAMES) / BLOCK_FRAMES;
    const arrays = [
      areas.ticks,
      areas.squares,
      areas.binPeaks,
      areas.binFrames,
      areas.waveMin,
      areas.waveMax,
      areas.runs,
    ];
    const addresses = arrays.map(({ byteOffset }) => byteOffset);
    this.#exports.createChannel(at, sampleRateHz, waveBlocks, samples, ...tables, ...addresses);
  }

  /** Shows the filters what stands ahead of the segment. */
  #prime(read: FrameReader, { part: { startFrame }, channels }: Run): void {
    for (const channel of channels) this.#begin(channel, startFrame);
    const { sampleRateHz, pieceFrames } = this.#options;
    let frame = Math.max(0, startFrame - Math.ceil(RUN_IN_SECONDS * sampleRateHz));
    while (frame < startFrame) {
      const frames = read(this.#bytes, frame, Math.min(pieceFrames, startFrame - frame));
      if (frames === 0) return;
      this.#unpack(channels, frames);
      this.#weigh(channels, frames);
      for (const { at } of channels) this.#exports.prime(at, frames);
      frame += frames;
    }
  }

  /** Takes in the next piece of each segment; their channels are weighed together where the pieces are of one length. */
  #takePiece(read: FrameReader, runs: readonly Run[]): void {
    const pieces = runs.map((run) => this.#readPiece(read, run));
    const together = runs.length === this.segmentsAtOnce && pieces.every((frames) => frames === pieces[0]);
    if (together) this.#weigh(this.#lanes, pieces[0] as number);
    runs.forEach((run, i) => {
      const frames = pieces[i] as number;
      if (!together) this.#weigh(run.channels, frames);
      const blocks = Math.floor(frames / BLOCK_FRAMES);
      run.rest = frames - blocks * BLOCK_FRAMES;
      for (const { at, samples } of run.channels) {
        if (blocks > 0) this.#exports.process(at, blocks);
        const piece = samples / 4;
        const from = piece + blocks * BLOCK_FRAMES;
        if (run.rest > 0) this.#samples.copyWithin(piece, from, from + run.rest);
      }
    });
  }

  #readPiece(read: FrameReader, run: Run): number {
    const { startFrame, frames } = run.part;
    const wanted = Math.min(this.#options.pieceFrames, frames - run.done);
    const got = read(this.#bytes, startFrame + run.done, wanted);
    run.nonFiniteSamples += this.#unpack(run.channels, got);
    run.done += got;
    run.ended = got < wanted || run.done === frames;
    return got;
  }

  #finish(read: FrameReader, run: Run, programmeFrames: number): void {
    const { part, done, rest } = run;
    const isWhole = rest === 0 && done === part.frames;
    const following = isWhole ? this.#follow(read, run, programmeFrames) : 0;
    for (const { at, samples } of run.channels) {
      // Silence behind the last frames, as far as anything is looked at.
      this.#samples.fill(0, samples / 4 + rest + following, samples / 4 + MARGIN_FRAMES);
      this.#exports.finish(at, rest, following);
    }
  }

  /** Unpacks the frames behind a segment to where its rest would be. */
  #follow(read: FrameReader, { part, done, channels }: Run, programmeFrames: number): number {
    const frame = part.startFrame + done;
    const wanted = Math.min(FOLLOWING_FRAMES, programmeFrames - frame);
    if (wanted <= 0) return 0;
    const got = read(this.#bytes, frame, wanted);
    this.#unpack(channels, got);
    return got;
  }

  #weigh(channels: readonly ChannelMemory[], frames: number): void {
    const { at: spare } = this.#spare;
    const lane = (c: number) => channels[c]?.at ?? spare;
    for (let c = 0; c < channels.length; c += LANES) {
      this.#exports.weigh(lane(c), lane(c + 1), lane(c + 2), lane(c + 3), frames);
    }
  }

  /** Unpacks interleaved frames to the piece; returns how many samples were not finite and became silence. */
  #unpack(channels: readonly ChannelMemory[], frames: number): number {
    const { encoding } = this.#options;
    const type = SAMPLE_TYPES.indexOf(encoding.type);
    const start = this.#unpackStereo(channels, this.#bytes.byteOffset, frames);
    let nonFinite = 0;
    channels.forEach(({ samples }, channel) => {
      const from = this.#bytes.byteOffset + start * this.#frameBytes + channel * this.#sampleBytes;
      const to = samples + 4 * start;
      nonFinite += this.#exports.unpack(type, encoding.isBigEndian, from, this.#frameBytes, to, frames - start);
    });
    return nonFinite;
  }

  /** Unpacks the usual kinds of stereo four frames at a time, as far as that goes; returns how many frames. */
  #unpackStereo([left, right, third]: readonly ChannelMemory[], from: number, frames: number): number {
    const { type, isBigEndian } = this.#options.encoding;
    if (!left || !right || third || isBigEndian) return 0;
    const quads = Math.floor(frames / QUAD_FRAMES);
    switch (type) {
      case 's24':
        this.#exports.unpackInt24Stereo(from, left.samples, right.samples, quads);
        return quads * QUAD_FRAMES;
      case 's16':
        this.#exports.unpackInt16Stereo(from, left.samples, right.samples, quads);
        return quads * QUAD_FRAMES;
      case 'f32':
        return this.#exports.unpackFloat32Stereo(from, left.samples, right.samples, quads) * QUAD_FRAMES;
      default:
        return 0;
    }
  }

  /** Weighs a segment once more, in f64, and puts its energies in the place of the first. */
  #weighExactly(read: FrameReader, { part: { startFrame }, channels, done }: Run, segment: Segment): void {
    for (const channel of channels) this.#begin(channel, startFrame);
    const { at: spare } = this.#spare;
    const { sampleRateHz, pieceFrames } = this.#options;
    const end = startFrame + done;
    let frame = Math.max(0, startFrame - Math.ceil(RUN_IN_SECONDS * sampleRateHz));
    while (frame < end) {
      const until = frame < startFrame ? startFrame : end;
      const frames = read(this.#bytes, frame, Math.min(pieceFrames, until - frame));
      if (frames === 0) break;
      this.#unpack(channels, frames);
      for (let c = 0; c < channels.length; c += 2) {
        this.#exports.weighExactly((channels[c] as ChannelMemory).at, channels[c + 1]?.at ?? spare, frames);
      }
      frame += frames;
      if (frame === startFrame) for (const { at } of channels) this.#exports.prime(at, 0);
    }
    segment.channels.forEach((result, c) => {
      result.ticks.set((channels[c] as ChannelMemory).ticks.subarray(0, result.ticks.length));
    });
  }

  #result({ part: { startFrame }, done, nonFiniteSamples, channels }: Run): Segment {
    return {
      startFrame,
      frames: done,
      nonFiniteSamples,
      channels: channels.map((channel) => this.#channelResult(channel, startFrame, done)),
    };
  }

  #channelResult(channel: ChannelMemory, startFrame: number, frames: number): ChannelSegment {
    this.#exports.readCounts(channel.at, this.#counts.byteOffset);
    this.#exports.readTotals(channel.at, this.#totals.byteOffset);
    const [ticks, bins, buckets, runs, headFrames, tailFrames, tailIsHead] = [...this.#counts] as CountList;
    const [sum, restSquares, samplePeak, samplePeakFrame, headJump, tailJump] = [...this.#totals] as TotalList;
    const open = (length: number, jump: number): OpenRun | undefined =>
      length > 0 ? { frames: length, jump, isWhole: tailIsHead === 1 } : undefined;
    return {
      ticks: channel.ticks.slice(0, ticks),
      tickSquares: channel.squares.slice(0, ticks),
      restSquares,
      sum,
      samplePeak,
      samplePeakFrame: startFrame + samplePeakFrame,
      truePeaks: channel.binPeaks.slice(0, bins),
      // What rings ahead of the programme or behind it belongs to its first or last frame.
      truePeakFrames: channel.binFrames
        .slice(0, bins)
        .map((frame) => startFrame + Math.min(Math.max(0, frame), frames - 1)),
      clippedRunCount: runs,
      clippedRuns: Array.from({ length: Math.min(runs, RUNS_KEPT) }, (_, i) => ({
        startFrame: startFrame + (channel.runs[2 * i] as number),
        frames: channel.runs[2 * i + 1] as number,
      })),
      headRun: open(headFrames, headJump),
      tailRun: open(tailFrames, tailJump),
      waveform: { min: channel.waveMin.slice(0, buckets), max: channel.waveMax.slice(0, buckets) },
    };
  }
}

/** An interpolator's coefficients tap by tap: for each, the even parts of all phases, then the odd ones. */
function byTap({ even, odd }: Interpolator): Float32Array {
  const phases = 8;
  const taps = even.length / phases;
  return Float32Array.from({ length: 2 * even.length }, (_, at) => {
    const tap = Math.floor(at / (2 * phases));
    const part = Math.floor(at / phases) % 2 === 0 ? even : odd;
    return part[(at % phases) * taps + tap] as number;
  });
}

/** Whole 100 ms where that can be: their true peak is found the sooner, the more of them is in view. */
function usualPiece(sampleRateHz: number): number {
  const bin = sampleRateHz / BINS_PER_SECOND;
  const frames = bin * Math.max(1, Math.round(LEAST_PIECE_FRAMES / bin));
  return Math.ceil(frames / PIECE_STEP) * PIECE_STEP;
}

/** Ticks back to where what was loud may still be in the filters' states. */
const MEMORY_TICKS = 30;
/** Weighted energy less than this part of what has gone in is not exact to 1e-5 dB in f32. */
const LEAST_PART = 1e-3;
const TICKS_PER_BIN = TICKS_PER_SECOND / BINS_PER_SECOND;

/**
 * Whether some 100 ms are so much quieter, once weighted, than what has been heard up to them, that rounding in f32
 * tells: behind a click, under a great offset, where all is below hearing.
 */
function needsExactness({ channels }: Segment): boolean {
  return channels.some(({ ticks, tickSquares }) => {
    for (let start = 0; start < ticks.length; start += TICKS_PER_BIN) {
      const end = Math.min(ticks.length, start + TICKS_PER_BIN);
      let energy = 0;
      for (let t = start; t < end; t++) energy += ticks[t] as number;
      let loudest = 0;
      for (let t = Math.max(0, start - MEMORY_TICKS); t < end; t++)
        loudest = Math.max(loudest, tickSquares[t] as number);
      if (energy < loudest * TICKS_PER_BIN * LEAST_PART) return true;
    }
    return false;
  });
}

type CountList = [number, number, number, number, number, number, number];
type TotalList = [number, number, number, number, number, number];

/** Gives out places in a memory that is made when all of them are known. */
class MemoryLayout {
  bytes = FIRST_FREE_BYTE;

  reserve(length: number): number {
    const at = this.bytes;
    this.bytes = Math.ceil((at + length) / 16) * 16;
    return at;
  }
}
