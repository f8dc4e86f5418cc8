import { existsSync } from 'node:fs';
import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { FINE_NODES, type FineEnergies } from '@/core/limiter/fine-energy';
import type { FineSource } from '@/core/limiter/forecast';
import type { NodePeaks } from '@/core/limiter/gain-curve';
import type { Linking } from '@/core/limiter/link';
import { type ChannelGroup, layoutGroups } from '@/core/limiter/link';
import { nodeFrames, PeakEnvelope } from '@/core/limiter/peak-envelope';
import { finePeaks, peaksInDb } from '@/core/limiter/peaks-in-memory';
import { channelLayout } from '@/core/loudness/channel-layout';
import { dbToAmplitude } from '@/core/units/decibel';
import { planBundle } from '@/formats/array-bundle';
import { PIECE_FRAMES } from '@/formats/pcm-reader';
import { KernelSearcher } from '@/kernels/limiter-kernel';
import { KernelWeigher } from '@/kernels/weigher-kernel';
import { BundleFile, BundleWriter } from './bundle-file';
import { withPrepared } from './prepare-file';
import type { PreparedSource } from './prepared-reader';
import { ProgressReporter, type RunOptions } from './progress';

/** What is kept of every fine node. */
const FINE_ARRAYS = ['finePeaks', 'fineWeighted', 'finePlain'] as const;
type FineReader = (name: (typeof FINE_ARRAYS)[number], from: number, to: number) => Float32Array;
/** So many fine nodes are held in memory; of longer programmes, what is asked for is read when it is. Half an hour, 24 MB. */
const HELD_NODES = 2_000_000;

interface LimitingMeta {
  sampleRateHz: number;
  /** Peaks at or below this are not kept. */
  floorDbtp: number;
  groups: ChannelGroup[];
}

export interface LimitingOptions extends RunOptions {
  fileName?: string | undefined;
  /** A layout chosen by hand. */
  layoutId?: string | null | undefined;
  groups: ChannelGroup[];
  /** Peaks at or below this are as good as none. */
  floorDbtp: number;
}

/**
 * Looks through a source, as it was prepared, for what a limiter needs to know of it, in one pass, and keeps that: the
 * peaks of every node for each group of channels, and for every fine node its peak and its energies.
 */
export async function analyseForLimiter(
  source: PreparedSource,
  outputPath: string,
  options: LimitingOptions,
): Promise<void> {
  const { fileName = basename(source.path), groups, floorDbtp } = options;
  await withPrepared(source, options, async (reader) => {
    const { sampleRateHz, channels, channelMask, frames } = reader.format;
    const analyser = new Analyser(
      { sampleRateHz, groups, floor: dbToAmplitude(floorDbtp) },
      channelLayout(channels, channelMask, options.layoutId ?? undefined).channels.map(({ weight }) => weight),
    );
    const writer = new BundleWriter(outputPath, planLimiting({ sampleRateHz, groups, floorDbtp }, frames));
    try {
      const progress = new ProgressReporter(frames, sampleRateHz, options);
      for (let piece = await reader.next(); piece; piece = await reader.next()) {
        analyser.process(piece.channels, piece.frames, writer);
        progress.at(reader.frame);
      }
      if (reader.frame !== frames) throw new AppError('source-changed', { fileName });
      analyser.finish(writer);
      writer.finish();
    } catch (error) {
      writer.abandon();
      throw error;
    }
  });
}

/**
 * Sees to it that what a limiter needs to know of a source is kept at `limitingPath`, for channels linked in a way, and as
 * deep as the greatest gain that will be asked for against its ceiling.
 */
export async function ensureLimiting(
  source: PreparedSource,
  limitingPath: string,
  most: { gainDb: number; ceilingDbtp: number },
  options: RunOptions & {
    fileName?: string | undefined;
    layoutId?: string | null | undefined;
    linking: Linking;
  },
): Promise<void> {
  const floorDbtp = floorFor(most.gainDb, most.ceilingDbtp);
  if (isDeepEnough(limitingPath, floorDbtp)) return;
  const groups = await withPrepared(source, options, async ({ format: { channels, channelMask } }) =>
    layoutGroups(channelLayout(channels, channelMask, options.layoutId ?? undefined), options.linking),
  );
  await analyseForLimiter(source, limitingPath, { ...options, groups, floorDbtp });
}

function isDeepEnough(limitingPath: string, floorDbtp: number): boolean {
  if (!existsSync(limitingPath)) return false;
  const file = new LimitingFile(limitingPath);
  try {
    return file.floorDbtp <= floorDbtp;
  } finally {
    file.close();
  }
}

/** Hands nodes and fine nodes on as they become whole. */
class Analyser {
  readonly #envelope: PeakEnvelope;
  readonly #weigher: KernelWeigher;
  readonly #floor: number;
  /** Peaks of all groups in one, of nodes that do not fill a fine node yet. */
  #open: Float32Array = new Float32Array(0);
  #node = 0;
  #fineNode = 0;
  #energyNode = 0;

  constructor(options: { sampleRateHz: number; groups: ChannelGroup[]; floor: number }, weights: number[]) {
    const { sampleRateHz, groups, floor } = options;
    const channels = weights.length;
    const searcher = new KernelSearcher({ sampleRateHz, channels, maxFrames: PIECE_FRAMES });
    const members = groups.map((group) => group.channels);
    const width = FINE_NODES * nodeFrames(sampleRateHz);
    this.#envelope = new PeakEnvelope({ sampleRateHz, groups: members, floor, maxFrames: PIECE_FRAMES, searcher });
    this.#weigher = new KernelWeigher({ sampleRateHz, weights, width, maxFrames: PIECE_FRAMES });
    this.#floor = floor;
  }

  process(channels: readonly Float32Array[], frames: number, writer: BundleWriter<LimitingMeta>): void {
    this.#putPeaks(this.#envelope.process(channels, frames), writer, false);
    this.#putEnergies(this.#weigher.process(channels, frames), writer);
  }

  finish(writer: BundleWriter<LimitingMeta>): void {
    this.#putPeaks(this.#envelope.finish(), writer, true);
    this.#putEnergies(this.#weigher.finish(), writer);
  }

  #putPeaks(nodes: Float32Array[], writer: BundleWriter<LimitingMeta>, isLast: boolean): void {
    const inDb = nodes.map((own) => peaksInDb(own, this.#floor));
    inDb.forEach((own, group) => {
      writer.put(`nodes${group}`, own, this.#node);
    });
    const [first, ...others] = inDb;
    const count = first?.length ?? 0;
    this.#node += count;
    const all = new Float32Array(this.#open.length + count);
    all.set(this.#open);
    all.set(first ?? [], this.#open.length);
    for (const other of others) {
      other.forEach((peak, k) => {
        const at = this.#open.length + k;
        if (peak > (all[at] as number)) all[at] = peak;
      });
    }
    const taken = isLast ? all.length : all.length - (all.length % FINE_NODES);
    const fine = finePeaks(all.subarray(0, taken));
    writer.put('finePeaks', fine, this.#fineNode);
    this.#fineNode += fine.length;
    this.#open = all.slice(taken);
  }

  #putEnergies({ weighted, plain }: FineEnergies, writer: BundleWriter<LimitingMeta>): void {
    writer.put('fineWeighted', weighted, this.#energyNode);
    writer.put('finePlain', plain, this.#energyNode);
    this.#energyNode += weighted.length;
  }
}

function planLimiting(meta: LimitingMeta, frames: number) {
  const width = nodeFrames(meta.sampleRateHz);
  const nodes = Math.ceil(frames / width);
  const fine = Math.ceil(frames / (FINE_NODES * width));
  return planBundle(meta, [
    ...meta.groups.map((_, group) => ({ name: `nodes${group}`, type: 'f32' as const, length: nodes })),
    ...FINE_ARRAYS.map((name) => ({ name, type: 'f32' as const, length: fine })),
  ]);
}

/** What was kept of a file for a limiter. Close it when done. */
export class LimitingFile {
  readonly #bundle: BundleFile<LimitingMeta>;

  constructor(path: string) {
    this.#bundle = new BundleFile(path);
  }

  get groups(): ChannelGroup[] {
    return this.#bundle.meta.groups;
  }

  get floorDbtp(): number {
    return this.#bundle.meta.floorDbtp;
  }

  /** For the limiter itself. */
  peaks(): NodePeaks {
    const { groups } = this.#bundle.meta;
    const buffers = groups.map(() => new Scratch());
    return {
      length: this.#bundle.lengthOf('nodes0'),
      nodesPerSecond: this.#nodesPerSecond(),
      domains: groups.map(({ domain }) => domain),
      read: (group, from, to) => this.#read(`nodes${group}`, (buffers[group] as Scratch).of(to - from), from),
    };
  }

  /** For a forecast: as if all channels went down together. */
  fine(): FineSource {
    const length = this.#bundle.lengthOf('finePeaks');
    const reader = length <= HELD_NODES ? this.#held(length) : this.#streamed();
    return {
      length,
      nodesPerSecond: this.#nodesPerSecond() / FINE_NODES,
      domains: [0],
      read: (_group, from, to) => reader('finePeaks', from, to),
      readEnergies: (from, to) => ({
        weighted: reader('fineWeighted', from, to),
        plain: reader('finePlain', from, to),
      }),
    };
  }

  close(): void {
    this.#bundle.close();
  }

  /** Read once, for what a solver asks for again and again. */
  #held(length: number): FineReader {
    const arrays = new Map(FINE_ARRAYS.map((name) => [name, this.#read(name, new Float32Array(length), 0)]));
    return (name, from, to) => (arrays.get(name) as Float32Array).subarray(from, to);
  }

  #streamed(): FineReader {
    const scratches = new Map(FINE_ARRAYS.map((name) => [name, new Scratch()]));
    return (name, from, to) => this.#read(name, (scratches.get(name) as Scratch).of(to - from), from);
  }

  #nodesPerSecond(): number {
    const { sampleRateHz } = this.#bundle.meta;
    return sampleRateHz / nodeFrames(sampleRateHz);
  }

  #read(name: string, target: Float32Array, from: number): Float32Array {
    this.#bundle.read(name, target, from);
    return target;
  }
}

/** Room that is used again and again. */
class Scratch {
  #room = new Float32Array(0);

  of(length: number): Float32Array {
    if (this.#room.length < length) this.#room = new Float32Array(length);
    return this.#room.subarray(0, length);
  }
}

/** Where peaks need not be told apart: so far below the ceiling that no gain up to this one asks for anything. */
export function floorFor(mostGainDb: number, ceilingDbtp: number): number {
  // A decibel of room for what corrections raise.
  return ceilingDbtp - mostGainDb - 1;
}
