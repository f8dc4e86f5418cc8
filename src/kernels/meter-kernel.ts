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
import { createInterpolator, type Interpolator, SEARCH } from '@/core/peak/interpolator';
import { READING_TAPS } from '@/core/peak/peak-reading';
import { BINS_PER_SECOND, TICKS_PER_SECOND } from '@/core/units/frames';
import { SAMPLE_TYPES, type SampleEncoding, sampleBytes } from '@/core/units/sample-encoding';
import { METER_WASM } from './generated/meter-wasm';
import { instantiate, MemoryLayout } from './memory';
import type { MeterExports } from './meter-exports';
import { needsExactness } from './needs-exactness';

const BLOCK_FRAMES = 16;
/** Channels of a quad, in the lanes of a vector. */
const LANES = 4;
const QUAD_FRAME_BYTES = 4 * LANES;
/** Stereo frames that are unpacked in one turn. */
const TURN_FRAMES = { s16: 8, s24: 8, f32: 4 };
/** Kept in front of a piece: what the module's CONTEXT says, and what bends into it. */
const CONTEXT_FRAMES = 356;
/** Kept behind a piece: the block that is left over, the two behind it, and what is looked at to read a peak there. */
const MARGIN_FRAMES = 3 * BLOCK_FRAMES + FOLLOWING_FRAMES;
const RUNS_KEPT = 1000;
/** More than the module's classes Quad and Lane take. */
const QUAD_BYTES = 512;
const LANE_BYTES = 256;
/** What the samples of one piece are to take, so that they stay in a core's second cache while every loop goes over them. */
const PIECE_BYTES = 300_000;
/** Pieces are cut where sums in f32 are handed on, so that these don't depend on the cut. */
const PIECE_STEP = 64;

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

/** Four channels that are measured side by side. */
interface QuadMemory {
  at: number;
  /** Address of the piece's first frame. */
  samples: number;
  /** Addresses of the areas that createQuad asks for. */
  areas: number[];
  lanes: LaneMemory[];
}

/** Where the results of one channel of a quad go. */
interface LaneMemory {
  ticks: Float64Array;
  squares: Float64Array;
  binPeaks: Float64Array;
  binFrames: Float64Array;
  waveMin: Float32Array;
  waveMax: Float32Array;
  runs: Float64Array;
}

/** The pieces of segments that are measured together were not of one length. */
class Uneven extends Error {}

/**
 * The meter's hot loops in WebAssembly, with a memory of its own that serves one set of segments after the other. The
 * same results as the reference: peaks and clipped runs bit for bit, energies within 1e-5 dB, since they are f32.
 */
export class MeterKernel {
  /** Segments that are best measured together, side by side in the lanes of vectors. */
  readonly segmentsAtOnce: number;
  readonly #options: Required<KernelOptions>;
  readonly #exports: MeterExports;
  /** The channels of the first segment, then those of the next. */
  readonly #quads: QuadMemory[];
  readonly #counts: Int32Array;
  readonly #totals: Float64Array;
  readonly #sampleBytes: number;
  readonly #frameBytes: number;
  /** Where each segment's frames are read to, interleaved. */
  readonly #bytes: Uint8Array[];
  readonly #samples: Float32Array;

  constructor(options: KernelOptions) {
    const { channels, encoding } = options;
    this.segmentsAtOnce = channels === 1 ? LANES : 2;
    const quads = Math.ceil((this.segmentsAtOnce * channels) / LANES);
    const pieceFrames = options.pieceFrames ?? usualPiece(options.sampleRateHz, quads);
    this.#options = { ...options, pieceFrames };
    this.#sampleBytes = sampleBytes(encoding);
    this.#frameBytes = this.#sampleBytes * channels;

    const layout = new MemoryLayout();
    const interpolator = createInterpolator(SEARCH);
    const reading = layout.reserve(4 * READING_TAPS.length);
    const weights = layout.reserve(4 * interpolator.curvatureWeights.length);
    const screen = layout.reserve(4 * 2 * interpolator.even.length);
    const counts = layout.reserve(4 * 7);
    const totals = layout.reserve(8 * 6);
    const pieceBytes = Math.max(pieceFrames, FOLLOWING_FRAMES) * this.#frameBytes;
    // A vector is loaded whole where only its first bytes belong to the piece.
    const bytes = Array.from({ length: this.segmentsAtOnce }, () => layout.reserve(pieceBytes + 16));
    const places = Array.from({ length: quads }, () => this.#reserveQuad(layout));

    const { exports, memory: buffer } = instantiate<MeterExports>(METER_WASM, layout);
    this.#exports = exports;
    new Float32Array(buffer, reading).set(READING_TAPS);
    new Float32Array(buffer, weights).set(interpolator.curvatureWeights);
    new Float32Array(buffer, screen).set(byTap(interpolator));
    const { l1Norm, curvatureNorm } = interpolator;
    this.#exports.setInterpolator(screen, weights, l1Norm, curvatureNorm);
    this.#exports.setReading(reading);
    this.#setFilter();
    this.#counts = new Int32Array(buffer, counts, 7);
    this.#totals = new Float64Array(buffer, totals, 6);
    this.#bytes = bytes.map((at) => new Uint8Array(buffer, at, pieceBytes));
    this.#samples = new Float32Array(buffer);
    this.#quads = places.map((place) => place(buffer));
  }

  /**
   * Measures segments of one programme of `programmeFrames`, at most `segmentsAtOnce` together. Each begins at a multiple
   * of SEGMENT_SECONDS. Where the reader runs out of frames, a segment ends there.
   */
  measure(read: FrameReader, parts: readonly Part[], programmeFrames: number): Segment[] {
    // What rings behind the programme's last frame is for its last segment alone.
    const isFollowed = ({ startFrame, frames }: Part) => startFrame + frames < programmeFrames;
    const groups = [parts.filter(isFollowed), parts.filter((part) => !isFollowed(part))];
    return groups.flatMap((group) => (group.length === 0 ? [] : this.#measureGroup(read, group, programmeFrames)));
  }

  #measureGroup(read: FrameReader, parts: readonly Part[], programmeFrames: number): Segment[] {
    try {
      const segments = this.#measureTogether(read, parts, programmeFrames);
      segments.forEach((segment, i) => {
        if (needsExactness(segment)) this.#weighExactly(read, parts[i] as Part, segment);
      });
      return segments;
    } catch (error) {
      if (error instanceof Uneven) return parts.flatMap((part) => this.#measureGroup(read, [part], programmeFrames));
      throw error;
    }
  }

  #measureTogether(read: FrameReader, parts: readonly Part[], programmeFrames: number): Segment[] {
    const { pieceFrames } = this.#options;
    const wanted = common(parts.map(({ frames }) => frames));
    const quads = this.#begin(parts);
    this.#runIn(read, parts, quads, this.#exports.weigh);
    const nonFiniteSamples = parts.map(() => 0);
    let done = 0;
    let rest = 0;
    while (done < wanted) {
      const count = Math.min(pieceFrames, wanted - done);
      const frames = this.#take(read, parts, done, count, nonFiniteSamples);
      const blocks = Math.floor(frames / BLOCK_FRAMES);
      rest = frames - blocks * BLOCK_FRAMES;
      for (const { at, samples } of quads) {
        if (blocks > 0) this.#exports.process(at, blocks);
        const from = samples / 4 + LANES * blocks * BLOCK_FRAMES;
        this.#samples.copyWithin(samples / 4, from, from + LANES * rest);
      }
      done += frames;
      if (frames < count) break;
    }
    const isFollowed = done === wanted && rest === 0 && this.#follow(read, parts, done, programmeFrames);
    const last = isFollowed ? FOLLOWING_FRAMES : rest;
    for (const { at, samples } of quads) {
      // Silence behind the last frames, as far as anything is looked at.
      this.#samples.fill(0, samples / 4 + LANES * last, samples / 4 + LANES * MARGIN_FRAMES);
      this.#exports.weigh(at, rest);
      this.#exports.finish(at, rest, isFollowed);
    }
    return parts.map(({ startFrame }, i) => ({
      startFrame,
      frames: done,
      nonFiniteSamples: nonFiniteSamples[i] as number,
      channels: this.#lanesOf(i).map((lane) => this.#channelResult(lane, startFrame, done)),
    }));
  }

  #reserveQuad(layout: MemoryLayout): (buffer: ArrayBuffer) => QuadMemory {
    const { pieceFrames } = this.#options;
    const context = QUAD_FRAME_BYTES * CONTEXT_FRAMES;
    const tableBytes = QUAD_FRAME_BYTES * (pieceFrames / BLOCK_FRAMES + 8);
    const at = layout.reserve(QUAD_BYTES);
    const samples = layout.reserve(context + QUAD_FRAME_BYTES * (pieceFrames + MARGIN_FRAMES)) + context;
    const tables = [tableBytes, tableBytes, 2 * tableBytes].map((bytes) => layout.reserve(bytes));
    const areas = [samples, ...tables, layout.reserve(LANES * LANE_BYTES)];
    const lanes = Array.from({ length: LANES }, () => this.#reserveLane(layout));
    return (buffer) => ({ at, samples, areas, lanes: lanes.map((lane) => lane(buffer)) });
  }

  #reserveLane(layout: MemoryLayout): (buffer: ArrayBuffer) => LaneMemory {
    const ticks = SEGMENT_SECONDS * TICKS_PER_SECOND + 1;
    const bins = SEGMENT_SECONDS * BINS_PER_SECOND + 1;
    const buckets = Math.ceil((SEGMENT_SECONDS * this.#options.sampleRateHz) / WAVEFORM_BUCKET_FRAMES) + 2;
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
    const shelfLevel = 1 + a1 + a2;
    const pass = [1 + highPass.a1 + highPass.a2, 2 + highPass.a1, (b0 * highPass.b0) ** 2];
    this.#exports.setFilter(shelfLevel, -1 - a1, (b1 + b2) / b0 - a1 - a2, b1 / b0 - a1, ...pass);
    this.#exports.setExactFilter(shelfLevel, 2 + a1, 1 + (b1 + b2) / b0, 1 + b1 / b0, ...pass);
  }

  /** Makes the quads new that the channels of so many segments stand in. */
  #begin(parts: readonly Part[]): QuadMemory[] {
    const { sampleRateHz, channels } = this.#options;
    const quads = this.#quads.slice(0, Math.ceil((parts.length * channels) / LANES));
    quads.forEach(({ at, areas, lanes }, quad) => {
      this.#exports.createQuad(at, sampleRateHz, ...areas);
      lanes.forEach((lane, index) => {
        const startFrame = parts[Math.floor((quad * LANES + index) / channels)]?.startFrame ?? 0;
        const waveBlocks = (startFrame % WAVEFORM_BUCKET_FRAMES) / BLOCK_FRAMES;
        const { ticks, squares, binPeaks, binFrames, waveMin, waveMax, runs } = lane;
        const arrays = [ticks, squares, binPeaks, binFrames, waveMin, waveMax, runs].map(
          ({ byteOffset }) => byteOffset,
        );
        this.#exports.createLane(at, index, startFrame > 0, waveBlocks, ...arrays);
      });
    });
    return quads;
  }

  /** Shows the filters what stands ahead of the segments: ahead of the first, silence. */
  #runIn(
    read: FrameReader,
    parts: readonly Part[],
    quads: readonly QuadMemory[],
    weigh: (quad: number, frames: number) => void,
  ): void {
    const { sampleRateHz, pieceFrames } = this.#options;
    if (parts.every(({ startFrame }) => startFrame === 0)) return;
    for (let ahead = Math.ceil(RUN_IN_SECONDS * sampleRateHz); ahead > 0; ahead -= pieceFrames) {
      const frames = Math.min(pieceFrames, ahead);
      this.#take(read, parts, -ahead, frames);
      for (const { at } of quads) {
        weigh(at, frames);
        this.#exports.prime(at, frames);
      }
    }
  }
  /** The lanes that a segment's channels stand in, and their quads. */
  #lanesOf(segment: number): { quad: QuadMemory; index: number }[] {
    const { channels } = this.#options;
    return Array.from({ length: channels }, (_, channel) => {
      const lane = segment * channels + channel;
      return { quad: this.#quads[Math.floor(lane / LANES)] as QuadMemory, index: lane % LANES };
    });
  }

  /**
   * Reads `count` frames of each segment, from so many behind its start on, and unpacks them to the quads; returns how
   * many there were. Adds the samples of each that were not finite to `nonFiniteSamples`.
   */
  #take(
    read: FrameReader,
    parts: readonly Part[],
    offset: number,
    count: number,
    nonFiniteSamples: number[] = [],
  ): number {
    const frames = common(
      parts.map(({ startFrame }, i) => {
        const bytes = this.#bytes[i] as Uint8Array;
        if (startFrame + offset >= 0) return read(bytes, startFrame + offset, count);
        this.#fillWithSilence(bytes);
        return count;
      }),
    );
    this.#unpack(parts.length, frames, nonFiniteSamples);
    return frames;
  }

  /** Unpacks the frames behind the segments to where the pieces would go on; returns whether there are any. */
  #follow(read: FrameReader, parts: readonly Part[], done: number, programmeFrames: number): boolean {
    const isFollowed = common(
      parts.map(({ startFrame }, i) => {
        const bytes = this.#bytes[i] as Uint8Array;
        this.#fillWithSilence(bytes);
        const frame = startFrame + done;
        const frames = Math.min(FOLLOWING_FRAMES, programmeFrames - frame);
        return frames > 0 && read(bytes, frame, frames) > 0;
      }),
    );
    if (isFollowed) this.#unpack(parts.length, FOLLOWING_FRAMES, []);
    return isFollowed;
  }

  #fillWithSilence(bytes: Uint8Array): void {
    bytes.fill(this.#options.encoding.type === 'u8' ? 0x80 : 0);
  }

  #unpack(segments: number, frames: number, nonFiniteSamples: number[]): void {
    const { encoding } = this.#options;
    const type = SAMPLE_TYPES.indexOf(encoding.type);
    const start = this.#unpackQuickly(segments, frames);
    if (start === frames) return;
    for (let segment = 0; segment < segments; segment++) {
      this.#lanesOf(segment).forEach(({ quad: { samples }, index }, channel) => {
        const from = this.#address(segment, channel) + start * this.#frameBytes;
        const to = samples + 4 * index + QUAD_FRAME_BYTES * start;
        const count = this.#exports.unpack(
          type,
          encoding.isBigEndian,
          from,
          this.#frameBytes,
          to,
          QUAD_FRAME_BYTES,
          frames - start,
        );
        nonFiniteSamples[segment] = (nonFiniteSamples[segment] ?? 0) + count;
      });
    }
  }

  /** Unpacks the usual kinds several samples at a time, as far as that goes; returns how many frames. */
  #unpackQuickly(segments: number, frames: number): number {
    const { channels, encoding } = this.#options;
    if (encoding.isBigEndian) return 0;
    if (channels === 2) return this.#unpackStereo(segments, frames);
    if (!['s16', 's24', 's32'].includes(encoding.type)) return 0;
    const addresses = Array.from({ length: segments * channels }, (_, lane) =>
      this.#address(Math.floor(lane / channels), lane % channels),
    );
    for (let lane = 0; lane < addresses.length; lane += LANES) {
      const { samples } = this.#quads[lane / LANES] as QuadMemory;
      // A lane that is left over holds the first's samples again.
      const from = (i: number) => addresses[lane + i] ?? (addresses[lane] as number);
      const addressesOfLanes = [from(0), from(1), from(2), from(3)] as const;
      this.#exports.unpackIntegers(...addressesOfLanes, this.#frameBytes, this.#sampleBytes, samples, frames);
    }
    return frames;
  }

  #unpackStereo(segments: number, frames: number): number {
    const { samples } = this.#quads[0] as QuadMemory;
    const first = this.#address(0, 0);
    const second = this.#address(segments - 1, 0);
    const { type } = this.#options.encoding;
    if (type !== 's16' && type !== 's24' && type !== 'f32') return 0;
    const turns = Math.floor(frames / TURN_FRAMES[type]);
    if (type === 'f32') return this.#exports.unpackFloat32Stereo(first, second, samples, turns) * TURN_FRAMES.f32;
    if (type === 's24') this.#exports.unpackInt24Stereo(first, second, samples, turns);
    else this.#exports.unpackInt16Stereo(first, second, samples, turns);
    return turns * TURN_FRAMES[type];
  }

  /** Where a channel's first sample of the frames that were read last stands. */
  #address(segment: number, channel: number): number {
    return (this.#bytes[segment] as Uint8Array).byteOffset + channel * this.#sampleBytes;
  }

  /** Weighs a segment once more, in f64, and puts its energies in the place of the first. */
  #weighExactly(read: FrameReader, part: Part, segment: Segment): void {
    const { pieceFrames } = this.#options;
    const quads = this.#begin([part]);
    this.#runIn(read, [part], quads, this.#exports.weighExactly);
    for (let done = 0; done < segment.frames; ) {
      const frames = this.#take(read, [part], done, Math.min(pieceFrames, segment.frames - done));
      if (frames === 0) break;
      for (const { at } of quads) this.#exports.weighExactly(at, frames);
      done += frames;
    }
    this.#lanesOf(0).forEach(({ quad, index }, channel) => {
      const { ticks } = segment.channels[channel] as ChannelSegment;
      ticks.set((quad.lanes[index] as LaneMemory).ticks.subarray(0, ticks.length));
    });
  }

  #channelResult(
    { quad, index }: { quad: QuadMemory; index: number },
    startFrame: number,
    frames: number,
  ): ChannelSegment {
    const lane = quad.lanes[index] as LaneMemory;
    this.#exports.readCounts(quad.at, index, this.#counts.byteOffset);
    this.#exports.readTotals(quad.at, index, this.#totals.byteOffset);
    const [ticks, bins, buckets, runs, headFrames, tailFrames, tailIsHead] = [...this.#counts] as CountList;
    const [sum, restSquares, samplePeak, samplePeakFrame, headJump, tailJump] = [...this.#totals] as TotalList;
    const open = (length: number, jump: number): OpenRun | undefined =>
      length > 0 ? { frames: length, jump, isWhole: tailIsHead === 1 } : undefined;
    return {
      ticks: lane.ticks.slice(0, ticks),
      tickSquares: lane.squares.slice(0, ticks),
      restSquares,
      sum,
      samplePeak,
      samplePeakFrame: startFrame + samplePeakFrame,
      truePeaks: lane.binPeaks.slice(0, bins),
      // What rings ahead of the programme or behind it belongs to its first or last frame.
      truePeakFrames: lane.binFrames
        .slice(0, bins)
        .map((frame) => startFrame + Math.min(Math.max(0, frame), frames - 1)),
      clippedRunCount: runs,
      clippedRuns: Array.from({ length: Math.min(runs, RUNS_KEPT) }, (_, i) => ({
        startFrame: startFrame + (lane.runs[2 * i] as number),
        frames: lane.runs[2 * i + 1] as number,
      })),
      headRun: open(headFrames, headJump),
      tailRun: open(tailFrames, tailJump),
      waveform: { min: lane.waveMin.slice(0, buckets), max: lane.waveMax.slice(0, buckets) },
    };
  }
}

/** What is the same for all segments that are measured together. */
function common<T>(values: readonly T[]): T {
  if (values.some((value) => value !== values[0])) throw new Uneven();
  return values[0] as T;
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
function usualPiece(sampleRateHz: number, quads: number): number {
  const bin = sampleRateHz / BINS_PER_SECOND;
  const bins = Math.max(1, Math.round(PIECE_BYTES / (quads * QUAD_FRAME_BYTES) / bin));
  return Math.ceil((bins * bin) / PIECE_STEP) * PIECE_STEP;
}

type CountList = [number, number, number, number, number, number, number];
type TotalList = [number, number, number, number, number, number];
