import { type ClippedRun, ClippedRunDetector } from '../peak/clipped-runs';
import { SampleStatistics } from '../peak/sample-statistics';
import { TruePeakMeter } from '../peak/true-peak';
import { ChannelEnergy } from './channel-energy';
import { type Waveform, WaveformBuilder } from './waveform';

/** What has been found of one channel when a programme has ended. */
export interface ChannelResult {
  /** True peak (linear) of every 100 ms begun, and the frame of each. */
  truePeaks: Float64Array;
  truePeakFrames: Float64Array;
  samplePeak: number;
  samplePeakFrame: number;
  sum: number;
  sumOfSquares: number;
  /** Unweighted sums of squares of every complete 100 ms. */
  binSumsOfSquares: Float64Array;
  clippedRunCount: number;
  /** The places of the first thousand. */
  clippedRuns: ClippedRun[];
  /** Undefined where it was not asked for. */
  waveform: Waveform | undefined;
}

/**
 * The part of the meter that looks at every sample. The reference below decides what is computed; another engine may
 * only be faster.
 */
export interface MeterEngine {
  /** Takes the next frames, planar, at most as many as were agreed. */
  process(channels: readonly Float32Array[], frames: number): void;
  /** Takes what is still inside. Frames can't follow. */
  finish(): void;
  /** Intervals of 10 ms that the last process or finish completed. */
  readonly tickCount: number;
  /** K-weighted sums of squares of those intervals, for one channel. */
  ticks(channel: number): Float64Array;
  /** Valid after finish. */
  result(channel: number): ChannelResult;
}

export interface EngineOptions {
  sampleRateHz: number;
  channels: number;
  /** Most frames of one call of process. */
  maxFrames: number;
  waveform: boolean;
}

export type CreateEngine = (options: EngineOptions) => MeterEngine;

/** The plain TypeScript engine. */
export const createReferenceEngine: CreateEngine = ({ sampleRateHz, channels, maxFrames, waveform }) => {
  const parts = Array.from({ length: channels }, () => ({
    energy: new ChannelEnergy(sampleRateHz, maxFrames),
    truePeak: new TruePeakMeter(sampleRateHz, maxFrames),
    statistics: new SampleStatistics(sampleRateHz),
    clipped: new ClippedRunDetector(),
    waveform: waveform ? new WaveformBuilder() : undefined,
  }));
  type Part = (typeof parts)[number];
  let totalFrames = 0;
  let tickCount = 0;
  return {
    process(planar, frames) {
      for (let c = 0; c < parts.length; c++) {
        const part = parts[c] as Part;
        const samples = planar[c] as Float32Array;
        part.energy.process(samples, frames);
        part.truePeak.process(samples, frames);
        part.statistics.process(samples, frames);
        part.clipped.process(samples, frames);
        part.waveform?.process(samples, frames);
      }
      totalFrames += frames;
      tickCount = (parts[0] as Part).energy.tickCount;
    },
    finish() {
      for (const part of parts) {
        part.truePeak.finish(totalFrames);
        part.statistics.finish();
        part.clipped.finish();
      }
      tickCount = 0;
    },
    get tickCount() {
      return tickCount;
    },
    ticks(channel) {
      return (parts[channel] as Part).energy.ticks;
    },
    result(channel) {
      const { truePeak, statistics, clipped, waveform: builder } = parts[channel] as Part;
      return {
        truePeaks: truePeak.binPeaks.view().slice(),
        truePeakFrames: truePeak.binFrames.view().slice(),
        samplePeak: statistics.peak,
        samplePeakFrame: statistics.peakFrame,
        sum: statistics.sum,
        sumOfSquares: statistics.sumOfSquares,
        binSumsOfSquares: statistics.binSumsOfSquares.view().slice(),
        clippedRunCount: clipped.count,
        clippedRuns: clipped.runs,
        waveform: builder?.finish(),
      };
    },
  };
};
