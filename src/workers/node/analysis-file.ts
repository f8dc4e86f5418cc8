import { type FileHandle, open } from 'node:fs/promises';
import type { Segment } from '@/core/loudness/segment';
import type { Series } from '@/core/loudness/series';
import { WAVEFORM_LEVELS, type Waveform, WaveformPyramid } from '@/core/loudness/waveform';
import { BINS_PER_SECOND, gridFrame } from '@/core/units/frames';
import { type BundledArray, type BundlePlan, headBytes, newArray, planBundle, readPlan } from '@/formats/array-bundle';
import { BundleWriter } from './bundle-file';

interface AnalysisMeta {
  channels: number;
  sampleRateHz: number;
  frames: number;
}

/** Extremes are kept in 16 bits, rounded outwards: 1.0 is 8192, so that float material has 12 dB beyond full scale. */
const FULL_SCALE = 8192;

/**
 * Writes what is kept of a measurement to answer later questions: the series, and every level of the waveform, segment
 * by segment. It appears under its name only when it is whole; an older one is replaced.
 */
export class AnalysisWriter {
  readonly #bundle: BundleWriter<AnalysisMeta>;
  readonly #pyramids: WaveformPyramid[];

  constructor(path: string, meta: AnalysisMeta) {
    const bundle = new BundleWriter(path, planAnalysis(meta));
    this.#bundle = bundle;
    this.#pyramids = Array.from(
      { length: meta.channels },
      (_, channel) =>
        new WaveformPyramid((level, firstBucket, part) => {
          bundle.put(`min${channel}.${level}`, Int16Array.from(part.min, lowerStep), firstBucket);
          bundle.put(`max${channel}.${level}`, Int16Array.from(part.max, upperStep), firstBucket);
        }),
    );
  }

  add({ startFrame, channels }: Segment): void {
    channels.forEach(({ waveform }, channel) => {
      if (waveform) this.#pyramids[channel]?.add(waveform, startFrame);
    });
  }

  finish(series: Series): void {
    for (const pyramid of this.#pyramids) pyramid.finish();
    this.#bundle.put('weightedPower', series.weightedPower, 0);
    series.energies.forEach((energies, channel) => {
      this.#bundle.put(`energies${channel}`, energies, 0);
    });
    series.truePeaks.forEach((peaks, channel) => {
      this.#bundle.put(`truePeaks${channel}`, peaks, 0);
      this.#bundle.put(`truePeakOffsets${channel}`, series.truePeakOffsets[channel] as Uint16Array, 0);
    });
    this.#bundle.finish();
  }

  abandon(): void {
    this.#bundle.abandon();
  }
}

function planAnalysis(meta: AnalysisMeta): BundlePlan<AnalysisMeta> {
  const { channels, sampleRateHz, frames } = meta;
  const begun = Math.ceil((frames * BINS_PER_SECOND) / sampleRateHz);
  const complete = gridFrame(begun, BINS_PER_SECOND, sampleRateHz) <= frames ? begun : begun - 1;
  const perChannel = Array.from({ length: channels }, (_, channel) => [
    { name: `energies${channel}`, type: 'f64' as const, length: complete },
    { name: `truePeaks${channel}`, type: 'f32' as const, length: begun },
    { name: `truePeakOffsets${channel}`, type: 'u16' as const, length: begun },
    ...WAVEFORM_LEVELS.flatMap((bucketFrames, level) =>
      ['min', 'max'].map((extreme) => ({
        name: `${extreme}${channel}.${level}`,
        type: 'i16' as const,
        length: Math.ceil(frames / bucketFrames),
      })),
    ),
  ]);
  return planBundle(meta, [{ name: 'weightedPower', type: 'f64', length: complete }, ...perChannel.flat()]);
}

const lowerStep = (sample: number) => Math.max(-32_768, Math.floor(sample * FULL_SCALE));
const upperStep = (sample: number) => Math.min(32_767, Math.ceil(sample * FULL_SCALE));

/** Opens an analysis for as long as it is used. */
export async function withAnalysis<T>(path: string, use: (analysis: AnalysisReader) => Promise<T>): Promise<T> {
  const analysis = await AnalysisReader.open(path);
  try {
    return await use(analysis);
  } finally {
    await analysis.close();
  }
}

/** An analysis on disk: only what is asked for is read. Close it when done. */
export class AnalysisReader {
  private constructor(
    private readonly handle: FileHandle,
    private readonly plan: BundlePlan<AnalysisMeta>,
  ) {}

  static async open(path: string): Promise<AnalysisReader> {
    const handle = await open(path, 'r');
    try {
      const first = new Uint8Array(4);
      await handle.read(first, 0, 4, 0);
      const head = new Uint8Array(headBytes(first));
      await handle.read(head, 0, head.length, 0);
      return new AnalysisReader(handle, readPlan<AnalysisMeta>(head));
    } catch (error) {
      await handle.close();
      throw error;
    }
  }

  weightedPower(): Promise<Float64Array> {
    return this.#read('weightedPower');
  }

  async series(): Promise<Series> {
    return {
      weightedPower: await this.weightedPower(),
      energies: await this.#readAll<Float64Array>('energies'),
      truePeaks: await this.#readAll<Float32Array>('truePeaks'),
      truePeakOffsets: await this.#readAll<Uint16Array>('truePeakOffsets'),
    };
  }

  /** Buckets of one level of each channel's waveform, as far as there are any. */
  async waveformPart(level: number, firstBucket: number, buckets: number): Promise<Waveform[]> {
    const part = async (extreme: 'min' | 'max', channel: number) => {
      const steps = await this.#read<Int16Array>(`${extreme}${channel}.${level}`, firstBucket, buckets);
      return Float32Array.from(steps, (step) => step / FULL_SCALE);
    };
    return Promise.all(
      Array.from({ length: this.plan.meta.channels }, async (_, channel) => ({
        min: await part('min', channel),
        max: await part('max', channel),
      })),
    );
  }

  /** One level of each channel's waveform. */
  waveforms(level: number): Promise<Waveform[]> {
    return this.waveformPart(level, 0, Number.POSITIVE_INFINITY);
  }

  close(): Promise<void> {
    return this.handle.close();
  }

  #readAll<T extends BundledArray>(name: string): Promise<T[]> {
    return Promise.all(Array.from({ length: this.plan.meta.channels }, (_, i) => this.#read<T>(`${name}${i}`)));
  }

  async #read<T extends BundledArray>(name: string, from = 0, length = Number.POSITIVE_INFINITY): Promise<T> {
    const plan = this.plan.arrays[name];
    if (!plan) throw new RangeError(`an analysis has no ${name}`);
    const first = Math.min(from, plan.length);
    const array = newArray(plan.type, Math.min(length, plan.length - first));
    const bytes = new Uint8Array(array.buffer);
    await this.handle.read(bytes, 0, bytes.length, plan.offset + first * array.BYTES_PER_ELEMENT);
    return array as T;
  }
}
