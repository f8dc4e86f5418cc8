import { type ClippedRun, ClippedRunList } from '../peak/clipped-runs';
import { amplitudeToDb, type Level, powerToDb } from '../units/decibel';
import { BINS_PER_SECOND, gridFrame, TICKS_PER_SECOND } from '../units/frames';
import { Growable } from '../units/growable';
import type { Channel, ChannelLayout } from './channel-layout';
import { ChannelPair, type PairRelation } from './channel-pair';
import { SILENT_POWER, SilenceCounter } from './digital-silence';
import { shortTermDistribution } from './distribution';
import { integratedLufs, loudnessRange, powerToLufs } from './gating';
import { loudestPassages } from './loudest-passages';
import { quietestHalfSecond } from './quietest-half-second';
import { type ChannelReading, ENGINE_VERSION, type Readings } from './readings';
import type { ChannelSegment, Segment } from './segment';
import { MOMENTARY_BINS, type Series, SHORT_TERM_BINS, slidingMean } from './series';
import { WindowMaximum } from './window-maximum';

const TICKS_PER_BIN = TICKS_PER_SECOND / BINS_PER_SECOND;
const LOUDEST_SECONDS = [3, 10] as const;

export interface Measurement {
  readings: Readings;
  series: Series;
  /** Per channel, the places of the first clipped runs. */
  clippedRuns: ClippedRun[][];
  /** Of a programme of two channels, what the second is to the first. */
  pair: PairRelation | null;
}

/**
 * The one meter: sources, spans, forecasts and written files are all read by it. It takes a programme's segments in
 * order, from whatever has looked at the samples, and keeps only what the readings and later questions ask for.
 */
export class ProgrammeMeter {
  readonly #sampleRateHz: number;
  readonly #layout: ChannelLayout;
  readonly #momentary: WindowMaximum;
  readonly #shortTerm: WindowMaximum;
  readonly #weightedPower = new Growable(Float64Array);
  readonly #binSquares = new Growable(Float64Array);
  /** Of every 100 ms, whether digital silence is in it: 1 or 0. */
  readonly #silentBins = new Growable(Uint8Array);
  readonly #silence = new SilenceCounter();
  readonly #channels: ChannelTotals[];
  readonly #pair = new ChannelPair();
  #squares = 0;
  #frames = 0;

  constructor({ sampleRateHz, layout }: { sampleRateHz: number; layout: ChannelLayout }) {
    this.#sampleRateHz = sampleRateHz;
    this.#layout = layout;
    this.#momentary = new WindowMaximum(MOMENTARY_BINS * TICKS_PER_BIN, sampleRateHz);
    this.#shortTerm = new WindowMaximum(SHORT_TERM_BINS * TICKS_PER_BIN, sampleRateHz);
    this.#channels = layout.channels.map((channel) => new ChannelTotals(channel, sampleRateHz));
  }

  /** @param segment the one that follows the last, of as many channels as the layout has */
  add(segment: Segment): void {
    const firstBin = this.#weightedPower.length;
    const ticks = segment.channels[0]?.ticks.length ?? 0;
    const bins = Math.floor(ticks / TICKS_PER_BIN);
    const frames = binLengths(firstBin, bins, this.#sampleRateHz);
    const weighted = new Float64Array(ticks);
    const powers = new Float64Array(bins);
    const squares = new Float64Array(bins);
    const tickSquares = new Float64Array(ticks);
    for (const [index, channel] of segment.channels.entries()) {
      const { weight } = this.#layout.channels[index] as Channel;
      const energies = meansOfBins(channel.ticks, frames);
      addWeighted(weighted, channel.ticks, weight);
      addWeighted(powers, energies, weight);
      addWeighted(squares, meansOfBins(channel.tickSquares, frames), 1 / this.#channels.length);
      addWeighted(tickSquares, channel.tickSquares, 1);
      this.#squares += channel.restSquares + sumOf(channel.tickSquares);
      (this.#channels[index] as ChannelTotals).add(channel, energies, segment, firstBin);
    }
    const [first, second, third] = segment.channels;
    if (first && second && !third) this.#pair.add(first, second);
    this.#momentary.push(weighted);
    this.#shortTerm.push(weighted);
    this.#weightedPower.append(powers);
    this.#binSquares.append(squares);
    this.#silentBins.append(this.#silenceIn(tickSquares, bins));
    this.#frames += segment.frames;
  }

  finish(): Measurement {
    return {
      readings: this.#readings(),
      series: {
        weightedPower: this.#weightedPower.view().slice(),
        energies: this.#channels.map(({ energies }) => energies.view().slice()),
        truePeaks: this.#channels.map(({ truePeaks }) => truePeaks.view().slice()),
        truePeakOffsets: this.#channels.map(({ truePeakOffsets }) => truePeakOffsets.view().slice()),
      },
      clippedRuns: this.#channels.map(({ clipped }) => clipped.runs),
      pair: this.#channels.length === 2 ? this.#pair.relation : null,
    };
  }

  #readings(): Readings {
    const power = this.#weightedPower.view();
    const shortTerm = slidingMean(power, SHORT_TERM_BINS);
    const integrated = integratedLufs(slidingMean(power, MOMENTARY_BINS));
    const range = loudnessRange(shortTerm);
    const perChannel = this.#channels.map((channel) => channel.reading(this.#frames));
    const truePeak = highest(perChannel, 'truePeakDbtp');
    const samplePeak = highest(perChannel, 'samplePeakDbfs');
    const [loudest3s, loudest10s] = LOUDEST_SECONDS.map((seconds) =>
      loudestPassages(power, seconds * BINS_PER_SECOND, this.#sampleRateHz),
    );
    return {
      engineVersion: ENGINE_VERSION,
      integratedLufs: integrated,
      integratedAsTwoSpeakersLufs: this.#channels.length === 1 ? asTwoSpeakers(power) : null,
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
      rmsDbfs: powerToDb(this.#squares / Math.max(1, this.#frames * this.#channels.length)),
      noiseFloorDbfs: this.#noiseFloor(),
      digitalSilence: this.#silence.silence,
      peakToLoudnessLu:
        integrated === null || truePeak.truePeakDbtp === null ? null : truePeak.truePeakDbtp - integrated,
      clippedRuns: perChannel.reduce((total, { clippedRuns }) => total + clippedRuns, 0),
      loudest3s: loudest3s ?? [],
      loudest10s: loudest10s ?? [],
      shortTermDistribution: shortTermDistribution(shortTerm),
    };
  }

  /** Counts the silence of a segment, and tells which of its 100 ms hold any. */
  #silenceIn(tickSquares: Float64Array, bins: number): Uint8Array {
    const silentSum = (SILENT_POWER * this.#sampleRateHz * this.#channels.length) / TICKS_PER_SECOND;
    const holdsSilence = new Uint8Array(bins);
    for (let t = 0; t < tickSquares.length; t++) {
      const isSilent = (tickSquares[t] as number) < silentSum;
      this.#silence.add(isSilent);
      const bin = Math.floor(t / TICKS_PER_BIN);
      if (isSilent && bin < bins) holdsSilence[bin] = 1;
    }
    return holdsSilence;
  }

  #noiseFloor(): Level {
    const silent = this.#silentBins.view();
    const quietest = quietestHalfSecond(this.#binSquares.view(), (bin) => silent[bin] === 1);
    return quietest && powerToDb(quietest.power);
  }
}

/** What is kept of one channel. */
class ChannelTotals {
  readonly energies = new Growable(Float64Array);
  readonly truePeaks = new Growable(Float32Array);
  readonly truePeakOffsets = new Growable(Uint16Array);
  readonly clipped = new ClippedRunList();
  readonly #label: string;
  readonly #sampleRateHz: number;
  #sum = 0;
  #samplePeak = 0;
  #samplePeakFrame = 0;
  #truePeak = 0;
  #truePeakFrame = 0;

  constructor({ label }: Channel, sampleRateHz: number) {
    this.#label = label;
    this.#sampleRateHz = sampleRateHz;
  }

  /** @param energies mean square of every whole 100 ms of the segment, once weighted */
  add(channel: ChannelSegment, energies: Float64Array, { startFrame, frames }: Segment, firstBin: number): void {
    this.#sum += channel.sum;
    if (channel.samplePeak > this.#samplePeak) {
      this.#samplePeak = channel.samplePeak;
      this.#samplePeakFrame = channel.samplePeakFrame;
    }
    this.energies.append(energies);
    this.truePeaks.append(channel.truePeaks);
    for (let bin = 0; bin < channel.truePeaks.length; bin++) {
      const peak = channel.truePeaks[bin] as number;
      const frame = channel.truePeakFrames[bin] as number;
      this.truePeakOffsets.push(frame - gridFrame(firstBin + bin, BINS_PER_SECOND, this.#sampleRateHz));
      if (peak <= this.#truePeak) continue;
      this.#truePeak = peak;
      this.#truePeakFrame = frame;
    }
    this.clipped.addSegment({ ...channel, startFrame, endFrame: startFrame + frames });
  }

  reading(programmeFrames: number): ChannelReading {
    return {
      label: this.#label,
      truePeakDbtp: amplitudeToDb(this.#truePeak),
      truePeakFrame: this.#truePeakFrame,
      samplePeakDbfs: amplitudeToDb(this.#samplePeak),
      samplePeakFrame: this.#samplePeakFrame,
      dcOffset: programmeFrames > 0 ? this.#sum / programmeFrames : 0,
      clippedRuns: this.clipped.count,
    };
  }
}

/** A mono programme as both of two loudspeakers play it. */
function asTwoSpeakers(power: Float64Array): Level {
  return integratedLufs(
    slidingMean(
      power.map((value) => 2 * value),
      MOMENTARY_BINS,
    ),
  );
}

/* Small loops, and each by itself: they are compiled soon, and once. */

function addWeighted(to: Float64Array, values: Float64Array, weight: number): void {
  for (let i = 0; i < to.length; i++) to[i] = (to[i] as number) + weight * (values[i] as number);
}

function sumOf(values: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < values.length; i++) sum += values[i] as number;
  return sum;
}

/** Means over 100 ms of so many frames each, from sums over 10 ms. */
function meansOfBins(ticks: Float64Array, frames: Float64Array): Float64Array {
  const means = new Float64Array(frames.length);
  for (let bin = 0, t = 0; bin < means.length; bin++) {
    let sum = 0;
    for (const end = t + TICKS_PER_BIN; t < end; t++) sum += ticks[t] as number;
    means[bin] = sum / (frames[bin] as number);
  }
  return means;
}

/** How many frames each 100 ms of a segment has. */
function binLengths(firstBin: number, bins: number, sampleRateHz: number): Float64Array {
  const lengths = new Float64Array(bins);
  let start = gridFrame(firstBin, BINS_PER_SECOND, sampleRateHz);
  for (let bin = 0; bin < bins; bin++) {
    const end = gridFrame(firstBin + bin + 1, BINS_PER_SECOND, sampleRateHz);
    lengths[bin] = end - start;
    start = end;
  }
  return lengths;
}

function highest(channels: ChannelReading[], key: 'truePeakDbtp' | 'samplePeakDbfs'): ChannelReading {
  return channels.reduce((best, channel) =>
    (channel[key] ?? Number.NEGATIVE_INFINITY) > (best[key] ?? Number.NEGATIVE_INFINITY) ? channel : best,
  );
}
