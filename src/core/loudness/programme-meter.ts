import type { ClippedRun } from '../peak/clipped-runs';
import { amplitudeToDb, type Level, powerToDb } from '../units/decibel';
import { BINS_PER_SECOND, gridFrame, TICKS_PER_SECOND } from '../units/frames';
import { GrowableFloat64 } from '../units/growable';
import type { Channel, ChannelLayout } from './channel-layout';
import { integratedLufs, loudnessRange, powerToLufs } from './gating';
import { type ChannelResult, type CreateEngine, createReferenceEngine, type MeterEngine } from './meter-engine';
import { type ChannelReading, ENGINE_VERSION, type Readings } from './readings';
import { MOMENTARY_BINS, type Series, SHORT_TERM_BINS, slidingMean } from './series';
import type { Waveform } from './waveform';
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
  /** What looks at every sample; the plain reference unless a faster one is given. */
  createEngine?: CreateEngine;
}

export interface Measurement {
  readings: Readings;
  series: Series;
  /** Per channel; empty unless asked for. */
  waveforms: Waveform[];
  /** Per channel, the places of the first clipped runs. */
  clippedRuns: ClippedRun[][];
}

/**
 * The one meter: sources, spans, forecasts and written files are all read by it.
 *
 * Feed planar frames with process, in pieces of any size up to maxFrames, then call finish once. The result does not
 * depend on how the frames were cut. Samples must be finite.
 */
export class ProgrammeMeter {
  readonly #options: MeterOptions;
  readonly #engine: MeterEngine;
  readonly #momentary: WindowMaximum;
  readonly #shortTerm: WindowMaximum;
  readonly #binPower = new GrowableFloat64();
  #frames = 0;
  #tick = 0;
  #binSum = 0;

  constructor(options: MeterOptions) {
    const { sampleRateHz, layout, maxFrames, waveform = false, createEngine = createReferenceEngine } = options;
    this.#options = options;
    this.#engine = createEngine({ sampleRateHz, channels: layout.channels.length, maxFrames, waveform });
    this.#momentary = new WindowMaximum(MOMENTARY_BINS * TICKS_PER_BIN, sampleRateHz);
    this.#shortTerm = new WindowMaximum(SHORT_TERM_BINS * TICKS_PER_BIN, sampleRateHz);
  }

  /** @param channels one array for each channel of the layout, each of at least `frames` samples */
  process(channels: readonly Float32Array[], frames: number): void {
    this.#engine.process(channels, frames);
    this.#frames += frames;
    this.#collectTicks();
  }

  finish(): Measurement {
    this.#engine.finish();
    this.#collectTicks();
    const results = this.#options.layout.channels.map((_, index) => this.#engine.result(index));
    return {
      readings: this.#readings(results),
      series: {
        weightedPower: this.#binPower.view().slice(),
        truePeaks: results.map(({ truePeaks }) => Float32Array.from(truePeaks)),
        truePeakFrames: results.map(({ truePeakFrames }) => truePeakFrames),
      },
      waveforms: results.flatMap(({ waveform }) => waveform ?? []),
      clippedRuns: results.map(({ clippedRuns }) => clippedRuns),
    };
  }

  /** Weighs and adds the channels' energies of every 10 ms that the last frames completed. */
  #collectTicks(): void {
    const { layout, sampleRateHz } = this.#options;
    const ticks = layout.channels.map((_, index) => this.#engine.ticks(index));
    for (let t = 0; t < this.#engine.tickCount; t++) {
      let sum = 0;
      for (let c = 0; c < ticks.length; c++) {
        sum += (layout.channels[c] as Channel).weight * ((ticks[c] as Float64Array)[t] as number);
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

  #readings(results: readonly ChannelResult[]): Readings {
    const binPower = this.#binPower.view();
    const integrated = integratedLufs(slidingMean(binPower, MOMENTARY_BINS));
    const range = loudnessRange(slidingMean(binPower, SHORT_TERM_BINS));
    const perChannel = results.map((result, index) => this.#channelReading(result, index));
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
      rmsDbfs: this.#rms(results),
      noiseFloorDbfs: this.#noiseFloor(results),
      peakToLoudnessLu:
        integrated === null || truePeak.truePeakDbtp === null ? null : truePeak.truePeakDbtp - integrated,
      clippedRuns: results.reduce((total, { clippedRunCount }) => total + clippedRunCount, 0),
    };
  }

  #channelReading(result: ChannelResult, index: number): ChannelReading {
    const bin = indexOfGreatest(result.truePeaks);
    return {
      label: (this.#options.layout.channels[index] as Channel).label,
      truePeakDbtp: amplitudeToDb(result.truePeaks[bin] ?? 0),
      truePeakFrame: result.truePeakFrames[bin] ?? 0,
      samplePeakDbfs: amplitudeToDb(result.samplePeak),
      samplePeakFrame: result.samplePeakFrame,
      dcOffset: this.#frames > 0 ? result.sum / this.#frames : 0,
      clippedRuns: result.clippedRunCount,
    };
  }

  #rms(results: readonly ChannelResult[]): Level {
    const squares = results.reduce((total, { sumOfSquares }) => total + sumOfSquares, 0);
    return powerToDb(squares / Math.max(1, this.#frames * results.length));
  }

  #noiseFloor(results: readonly ChannelResult[]): Level {
    const { sampleRateHz } = this.#options;
    const power = Float64Array.from((results[0] as ChannelResult).binSumsOfSquares, (_, bin) => {
      const squares = results.reduce((total, { binSumsOfSquares }) => total + (binSumsOfSquares[bin] as number), 0);
      return squares / (binFrames(bin, sampleRateHz) * results.length);
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
