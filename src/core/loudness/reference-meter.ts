import { ClippedRunDetector } from '../peak/clipped-runs';
import { SampleStatistics } from '../peak/sample-statistics';
import { TruePeakMeter } from '../peak/true-peak';
import { ChannelEnergy } from './channel-energy';
import type { ChannelSegment, Segment } from './segment';
import { WaveformBuilder } from './waveform';

/**
 * What looks at every sample, in plain TypeScript: a whole programme as one segment. It decides what is computed; the
 * kernels may only be faster.
 */
export class ReferenceMeter {
  readonly #parts: {
    energy: ChannelEnergy;
    truePeak: TruePeakMeter;
    statistics: SampleStatistics;
    clipped: ClippedRunDetector;
    waveform: WaveformBuilder;
  }[];
  #frames = 0;

  /** @param options.maxFrames most frames of one call of process */
  constructor({ sampleRateHz, channels, maxFrames }: { sampleRateHz: number; channels: number; maxFrames: number }) {
    this.#parts = Array.from({ length: channels }, () => ({
      energy: new ChannelEnergy(sampleRateHz),
      truePeak: new TruePeakMeter(sampleRateHz, maxFrames),
      statistics: new SampleStatistics(sampleRateHz),
      clipped: new ClippedRunDetector(),
      waveform: new WaveformBuilder(),
    }));
  }

  /** Takes the next frames, planar and finite. */
  process(channels: readonly Float32Array[], frames: number): void {
    this.#parts.forEach(({ energy, truePeak, statistics, clipped, waveform }, c) => {
      const samples = channels[c] as Float32Array;
      energy.process(samples, frames);
      truePeak.process(samples, frames);
      statistics.process(samples, frames);
      clipped.process(samples, frames);
      waveform.process(samples, frames);
    });
    this.#frames += frames;
  }

  finish(): Segment {
    const channels = this.#parts.map(({ energy, truePeak, statistics, clipped, waveform }): ChannelSegment => {
      truePeak.finish(this.#frames);
      clipped.finish();
      return {
        ticks: energy.ticks.view(),
        tickSquares: statistics.tickSquares.view(),
        restSquares: statistics.restSquares,
        sum: statistics.sum,
        samplePeak: statistics.peak,
        samplePeakFrame: statistics.peakFrame,
        truePeaks: truePeak.binPeaks.view(),
        truePeakFrames: truePeak.binFrames.view(),
        clippedRunCount: clipped.found.count,
        clippedRuns: clipped.found.runs,
        headRun: undefined,
        tailRun: undefined,
        waveform: waveform.finish(),
      };
    });
    return { startFrame: 0, frames: this.#frames, channels, nonFiniteSamples: 0 };
  }
}
