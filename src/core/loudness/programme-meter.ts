import { type ClippedRun, ClippedRunDetector } from '../peak/clipped-runs';
import { SampleStatistics } from '../peak/sample-statistics';
import { TruePeakMeter } from '../peak/true-peak';
import { amplitudeToDb, type Level, powerToDb } from '../units/decibel';
import { BINS_PER_SECOND, gridFrame, TICKS_PER_SECOND } from '../units/frames';
import { GrowableFloat64 } from '../units/growable';
import { ChannelEnergy } from './channel-energy';
import type { ChannelLayout } from './channel-layout';
import { integratedLufs, loudnessRange, powerToLufs } from './gating';
import { type ChannelReading, ENGINE_VERSION, type Readings } from './readings';
import { MOMENTARY_BINS, type Series, SHORT_TERM_BINS, slidingMean } from './series';
import { type Waveform, WaveformBuilder } from './waveform';
import { WindowMaximum } from './window-maximum';

const TICKS_PER_BIN = TICKS_PER_SECOND / BINS_PER_SECOND;
/** The quietest half-second is sought on the 100 ms grid. */
const NOISE_FLOOR_BINS = 5;

export interface MeterOptions {
  sampleRateHz: number;
  layout: ChannelLayout;
  /** Most frames of one call of process. */
  maxFrames: number;
  /** Build the waveform as well; it costs memory that grows with the programme (2 × 4 bytes per 256 frames). */
  waveform?: boolean;
}

export interface Measurement {
  readings: Readings;
  series: Series;
  /** Per channel; empty unless asked for. */
  waveforms: Waveform[];
  /** Per channel, the places of the first clipped runs. */
  clippedRuns: ClippedRun[][];
}

class ChannelMeter {
  readonly energy: ChannelEnergy;
  readonly truePeak: TruePeakMeter;
  readonly statistics: SampleStatistics;
  readonly clipped = new ClippedRunDetector();
  readonly waveform: WaveformBuilder | undefined;

  constructor({ sampleRateHz, maxFrames, waveform }: MeterOptions) {
    this.energy = new ChannelEnergy(sampleRateHz, maxFrames);
    this.truePeak = new TruePeakMeter(sampleRateHz, maxFrames);
    this.statistics = new SampleStatistics(sampleRateHz);
    this.waveform = waveform ? new WaveformBuilder() : undefined;
  }

  process(samples: Float32Array, frames: number): void {
    this.energy.process(samples, frames);
    this.truePeak.process(samples, frames);
    this.statistics.process(samples, frames);
    this.clipped.process(samples, frames);
    this.waveform?.process(samples, frames);
  }

  finish(frames: number): void {
    this.truePeak.finish(frames);
    this.statistics.finish();
    this.clipped.finish();
  }
}

/**
 * The one meter: sources, spans, forecasts and written files are all read by it.
 *
 * Feed planar frames with process, in pieces of any size up to maxFrames, then call finish once. The result does not
 * depend on how the frames were cut. Samples must be finite.
 */
export class ProgrammeMeter {
  readonly #options: MeterOptions;
  readonly #channels: ChannelMeter[];
  readonly #momentary: WindowMaximum;
  readonly #shortTerm: WindowMaximum;
  readonly #binPower = new GrowableFloat64();
  #frames = 0;
  #tick = 0;
  #binSum = 0;

  constructor(options: MeterOptions) {
    this.#options = options;
    this.#channels = options.layout.channels.map(() => new ChannelMeter(options));
    this.#momentary = new WindowMaximum(MOMENTARY_BINS * TICKS_PER_BIN, options.sampleRateHz);
    this.#shortTerm = new WindowMaximum(SHORT_TERM_BINS * TICKS_PER_BIN, options.sampleRateHz);
  }

  /** @param channels one array for each channel of the layout, each of at least `frames` samples */
  process(channels: readonly Float32Array[], frames: number): void {
    for (let c = 0; c < this.#channels.length; c++) {
      (this.#channels[c] as ChannelMeter).process(channels[c] as Float32Array, frames);
    }
    this.#frames += frames;
    this.#collectTicks();
  }

  finish(): Measurement {
    for (const channel of this.#channels) channel.finish(this.#frames);
    return {
      readings: this.#readings(),
      series: {
        weightedPower: this.#binPower.view().slice(),
        truePeaks: this.#channels.map(({ truePeak }) => Float32Array.from(truePeak.binPeaks.view())),
        truePeakFrames: this.#channels.map(({ truePeak }) => truePeak.binFrames.view().slice()),
      },
      waveforms: this.#channels.flatMap(({ waveform }) => waveform?.finish() ?? []),
      clippedRuns: this.#channels.map(({ clipped }) => clipped.runs),
    };
  }

  /** Weighs and adds the channels' energies of every 10 ms that the last frames completed. */
  #collectTicks(): void {
    const { layout, sampleRateHz } = this.#options;
    const ticks = (this.#channels[0] as ChannelMeter).energy.tickCount;
    for (let t = 0; t < ticks; t++) {
      let sum = 0;
      for (let c = 0; c < this.#channels.length; c++) {
        const weight = layout.channels[c]?.weight as number;
        sum += weight * ((this.#channels[c] as ChannelMeter).energy.ticks[t] as number);
      }
      this.#momentary.push(sum);
      this.#shortTerm.push(sum);
      this.#binSum += sum;
      this.#tick++;
      if (this.#tick % TICKS_PER_BIN === 0) {
        this.#binPower.push(this.#binSum / binFrames(this.#binPower.length, sampleRateHz));
        this.#binSum = 0;
      }
    }
  }

  #readings(): Readings {
    const binPower = this.#binPower.view();
    const integrated = integratedLufs(slidingMean(binPower, MOMENTARY_BINS));
    const range = loudnessRange(slidingMean(binPower, SHORT_TERM_BINS));
    const perChannel = this.#channels.map((_, index) => this.#channelReading(index));
    const truePeak = highest(perChannel, 'truePeakDbtp');
    const samplePeak = highest(perChannel, 'samplePeakDbfs');
    return {
      engineVersion: ENGINE_VERSION,
      integratedLufs: integrated,
      loudnessRangeLu: range?.rangeLu ?? null,
      loudnessRangeLowLufs: range?.lowLufs ?? null,
      loudnessRangeHighLufs: range?.highLufs ?? null,
      maxMomentaryLufs: powerToLufs(this.#momentary.power ?? 0),
      maxMomentaryFrame: this.#momentary.power ? this.#momentary.startFrame : null,
      maxShortTermLufs: powerToLufs(this.#shortTerm.power ?? 0),
      maxShortTermFrame: this.#shortTerm.power ? this.#shortTerm.startFrame : null,
      truePeakDbtp: truePeak.truePeakDbtp,
      truePeakFrame: truePeak.truePeakFrame,
      samplePeakDbfs: samplePeak.samplePeakDbfs,
      samplePeakFrame: samplePeak.samplePeakFrame,
      perChannel,
      rmsDbfs: this.#rms(),
      noiseFloorDbfs: this.#noiseFloor(),
      peakToLoudnessLu:
        integrated === null || truePeak.truePeakDbtp === null ? null : truePeak.truePeakDbtp - integrated,
      clippedRuns: this.#channels.reduce((total, { clipped }) => total + clipped.count, 0),
    };
  }

  #channelReading(index: number): ChannelReading {
    const { truePeak, statistics, clipped } = this.#channels[index] as ChannelMeter;
    const bin = indexOfGreatest(truePeak.binPeaks.view());
    return {
      label: this.#options.layout.channels[index]?.label as string,
      truePeakDbtp: amplitudeToDb(truePeak.binPeaks.view()[bin] ?? 0),
      truePeakFrame: truePeak.binFrames.view()[bin] ?? 0,
      samplePeakDbfs: amplitudeToDb(statistics.peak),
      samplePeakFrame: statistics.peakFrame,
      dcOffset: this.#frames > 0 ? statistics.sum / this.#frames : 0,
      clippedRuns: clipped.count,
    };
  }

  #rms(): Level {
    const squares = this.#channels.reduce((total, { statistics }) => total + statistics.sumOfSquares, 0);
    return powerToDb(squares / Math.max(1, this.#frames * this.#channels.length));
  }

  #noiseFloor(): Level {
    const { sampleRateHz } = this.#options;
    const perChannel = this.#channels.map(({ statistics }) => statistics.binSumsOfSquares.view());
    const power = Float64Array.from(perChannel[0] as Float64Array, (_, bin) => {
      const squares = perChannel.reduce((total, bins) => total + (bins[bin] as number), 0);
      return squares / (binFrames(bin, sampleRateHz) * perChannel.length);
    });
    const means = slidingMean(power, NOISE_FLOOR_BINS);
    return means.length === 0 ? null : powerToDb(means.reduce((least, mean) => Math.min(least, mean)));
  }
}

function binFrames(bin: number, sampleRateHz: number): number {
  return gridFrame(bin + 1, BINS_PER_SECOND, sampleRateHz) - gridFrame(bin, BINS_PER_SECOND, sampleRateHz);
}

function indexOfGreatest(values: ArrayLike<number>): number {
  let best = 0;
  for (let i = 1; i < values.length; i++) if ((values[i] as number) > (values[best] as number)) best = i;
  return best;
}

function highest(channels: ChannelReading[], key: 'truePeakDbtp' | 'samplePeakDbfs'): ChannelReading {
  return channels.reduce((best, channel) =>
    (channel[key] ?? Number.NEGATIVE_INFINITY) > (best[key] ?? Number.NEGATIVE_INFINITY) ? channel : best,
  );
}
