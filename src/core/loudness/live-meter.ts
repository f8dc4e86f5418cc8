import { TruePeakMeter } from '../peak/true-peak';
import { amplitudeToDb, type Level } from '../units/decibel';
import { BINS_PER_SECOND, gridFrame, TICKS_PER_SECOND } from '../units/frames';
import { Growable } from '../units/growable';
import { ChannelEnergy } from './channel-energy';
import { type GatedPowers, gatedLufs, integratedBlocks, type LoudnessRange, powerToLufs } from './gating';
import { PowerHistogram } from './power-histogram';
import { RunningRange } from './running-range';
import { MOMENTARY_BINS, SHORT_TERM_BINS } from './series';
import { WindowMaximum } from './window-maximum';

/** Powers of 100 ms that are kept before the earlier ones are forgotten. */
const MOST_POWERS = 1000;

const TICKS_PER_BIN = TICKS_PER_SECOND / BINS_PER_SECOND;

/** One 100 ms of what is being heard. */
export interface LiveBin {
  /** Loudness-weighted mean square; null of one that was not heard to its end. */
  weightedPower: number | null;
  /** Loudness-weighted sums of squares of its 10 ms: of those that were heard to their end. */
  ticks: Float64Array;
  /** Greatest true peak of each channel, linear. */
  truePeaks: number[];
}

/** Looks at sound while it is heard, by the meter's own parts: for every 100 ms its power and its true peak. */
export class LiveMeter {
  readonly #sampleRateHz: number;
  readonly #weights: readonly number[];
  readonly #energies: ChannelEnergy[];
  readonly #peaks: TruePeakMeter[];
  #frames = 0;
  #taken = 0;

  /**
   * @param weights of the channels in loudness
   * @param maxFrames most frames of one call of process
   */
  constructor(sampleRateHz: number, weights: readonly number[], maxFrames: number) {
    this.#sampleRateHz = sampleRateHz;
    this.#weights = weights;
    this.#energies = weights.map(() => new ChannelEnergy(sampleRateHz));
    this.#peaks = weights.map(() => new TruePeakMeter(sampleRateHz, maxFrames));
  }

  process(channels: readonly Float32Array[], frames: number): void {
    for (let c = 0; c < this.#weights.length; c++) {
      this.#energies[c]?.process(channels[c] as Float32Array, frames);
      this.#peaks[c]?.process(channels[c] as Float32Array, frames);
    }
    this.#frames += frames;
  }

  /** The 100 ms that have become whole since this was last asked for. */
  take(): LiveBin[] {
    const whole = Math.min(
      Math.floor((this.#energies[0]?.ticks.length ?? 0) / TICKS_PER_BIN),
      this.#peaks[0]?.binPeaks.length ?? 0,
    );
    const bins = Array.from({ length: whole }, (_, place) => this.#bin(place));
    this.#taken += whole;
    // What was taken is forgotten: a line may sound for days.
    for (const { ticks } of this.#energies) ticks.dropFirst(whole * TICKS_PER_BIN);
    for (const { binPeaks, binFrames } of this.#peaks) {
      binPeaks.dropFirst(whole);
      binFrames.dropFirst(whole);
    }
    return bins;
  }

  /** What is left when the sound ends: the ringing behind it counts. */
  finish(): LiveBin[] {
    for (const peaks of this.#peaks) peaks.finish(this.#frames);
    const bins = this.take();
    if ((this.#peaks[0]?.binPeaks.length ?? 0) > 0) {
      bins.push({
        weightedPower: null,
        ticks: this.#ticksOf(0, this.#energies[0]?.ticks.length ?? 0),
        truePeaks: this.#truePeaksOf(0),
      });
    }
    return bins;
  }

  /** Weighted sums of squares of 10 ms, of those that were not taken yet. */
  #ticksOf(first: number, count: number): Float64Array {
    const ticks = new Float64Array(count);
    this.#energies.forEach((energy, c) => {
      const values = energy.ticks.view();
      const weight = this.#weights[c] as number;
      for (let t = 0; t < count; t++) ticks[t] = (ticks[t] as number) + weight * (values[first + t] as number);
    });
    return ticks;
  }

  /** @param place among those that were not taken yet */
  #bin(place: number): LiveBin {
    const bin = this.#taken + place;
    const frames =
      gridFrame(bin + 1, BINS_PER_SECOND, this.#sampleRateHz) - gridFrame(bin, BINS_PER_SECOND, this.#sampleRateHz);
    const ticks = this.#ticksOf(place * TICKS_PER_BIN, TICKS_PER_BIN);
    const sum = ticks.reduce((total, tick) => total + tick, 0);
    return { weightedPower: sum / frames, ticks, truePeaks: this.#truePeaksOf(place) };
  }

  #truePeaksOf(place: number): number[] {
    return this.#peaks.map(({ binPeaks }) => binPeaks.view()[place] ?? 0);
  }
}

/** The same, and where it was heard. */
export interface HeardBin extends LiveBin {
  /** Of the timeline that is heard, the frame behind its last. */
  endFrame: number;
}

/** What is read of the true peak of one channel. */
export interface LivePeak {
  /** Of the last 100 ms. */
  nowDbtp: Level;
  /** Since the start, and the frame behind the 100 ms that have it; null of nothing but silence. */
  maxDbtp: Level;
  maxFrame: number | null;
}

export interface LiveReadings {
  /** Of the last 400 ms and 3 s; null until so much was heard, and in silence. */
  momentaryLufs: Level;
  shortTermLufs: Level;
  maxMomentaryLufs: Level;
  maxShortTermLufs: Level;
  /** Since the start, or since it was cleared. */
  integratedLufs: Level;
  /** Of the seconds that were measured, those that pass the gates of integrated loudness. */
  gatedSeconds: number;
  /** The range so far, with its ends. */
  loudnessRangeLu: Level;
  loudnessRangeLowLufs: Level;
  loudnessRangeHighLufs: Level;
  truePeakDbtp: Level;
  /** By channel; empty before anything was heard. */
  peaks: LivePeak[];
  /** That were measured. */
  seconds: number;
}

/**
 * What has been heard since the start, read as a programme is. The measuring of what grows with a programme can be held, and goes
 * on later (EBU Tech 3341, 2.5, from memory): momentary and short-term loudness are read all the while.
 */
export class LiveTally {
  readonly #sampleRateHz: number;
  /** Of the last 3 s and more. */
  readonly #powers = new Growable(Float64Array);
  /** Of every 400 ms that were measured to their end, one each 100 ms; and of every 3 s. */
  readonly #blocks: { add(power: number): void; gated(): GatedPowers };
  readonly #range: { add(power: number): void; range(): LoudnessRange | null };
  #momentary: WindowMaximum;
  #shortTerm: WindowMaximum;
  /** Greatest of what was measured before it was last held. */
  #earlier = { momentary: 0, shortTerm: 0 };
  #peaks: LivePeak[] = [];
  #isHeld = false;
  /** The 100 ms that were measured, in all and since it last went on. */
  #measuredBins = 0;
  #runBins = 0;

  /**
   * @param isEndless of a line that may sound for days: memory does not grow, and integrated loudness and range are within 0.001 LU of what
   * all of it gives
   */
  constructor(sampleRateHz: number, { isEndless = false } = {}) {
    this.#sampleRateHz = sampleRateHz;
    this.#blocks = isEndless ? new PowerHistogram() : new RunningLoudness();
    this.#range = isEndless ? new PowerHistogram() : new RunningRange();
    this.#momentary = new WindowMaximum(MOMENTARY_BINS * TICKS_PER_BIN, sampleRateHz);
    this.#shortTerm = new WindowMaximum(SHORT_TERM_BINS * TICKS_PER_BIN, sampleRateHz);
  }

  /** What comes from here on is not measured. */
  hold(): void {
    this.#isHeld = true;
  }

  /** What comes from here on is measured: no window reaches over what was left out. */
  goOn(): void {
    if (!this.#isHeld) return;
    this.#isHeld = false;
    this.#beginRun();
  }

  /** What comes from here on does not follow what came: no window reaches over the break. */
  interrupt(): void {
    this.#powers.dropFirst(this.#powers.length);
    this.#beginRun();
  }

  #beginRun(): void {
    this.#runBins = 0;
    this.#earlier = { momentary: this.#mostMomentary, shortTerm: this.#mostShortTerm };
    this.#momentary = new WindowMaximum(MOMENTARY_BINS * TICKS_PER_BIN, this.#sampleRateHz);
    this.#shortTerm = new WindowMaximum(SHORT_TERM_BINS * TICKS_PER_BIN, this.#sampleRateHz);
  }

  add({ weightedPower, ticks, truePeaks, endFrame }: HeardBin): void {
    this.#peaks = truePeaks.map((truePeak, c) => {
      const nowDbtp = amplitudeToDb(truePeak);
      const { maxDbtp, maxFrame } = this.#peaks[c] ?? { maxDbtp: null, maxFrame: null };
      const isHigher = !this.#isHeld && nowDbtp !== null && nowDbtp > (maxDbtp ?? Number.NEGATIVE_INFINITY);
      return isHigher ? { nowDbtp, maxDbtp: nowDbtp, maxFrame: endFrame } : { nowDbtp, maxDbtp, maxFrame };
    });
    if (!this.#isHeld) {
      this.#momentary.push(ticks);
      this.#shortTerm.push(ticks);
    }
    if (weightedPower === null) return;
    if (this.#powers.length === MOST_POWERS) this.#powers.dropFirst(MOST_POWERS - SHORT_TERM_BINS);
    this.#powers.push(weightedPower);
    if (this.#isHeld) return;
    this.#measuredBins++;
    this.#runBins++;
    const momentary = this.#runBins < MOMENTARY_BINS ? null : this.#meanOfLast(MOMENTARY_BINS);
    if (momentary !== null) this.#blocks.add(momentary);
    const shortTerm = this.#runBins < SHORT_TERM_BINS ? null : this.#meanOfLast(SHORT_TERM_BINS);
    if (shortTerm !== null) this.#range.add(shortTerm);
  }

  read(): LiveReadings {
    const range = this.#range.range();
    const gated = this.#blocks.gated();
    const most = this.#peaks.flatMap(({ maxDbtp }) => maxDbtp ?? []);
    return {
      momentaryLufs: powerToLufs(this.#meanOfLast(MOMENTARY_BINS) ?? 0),
      shortTermLufs: powerToLufs(this.#meanOfLast(SHORT_TERM_BINS) ?? 0),
      maxMomentaryLufs: powerToLufs(this.#mostMomentary),
      maxShortTermLufs: powerToLufs(this.#mostShortTerm),
      integratedLufs: gatedLufs(gated),
      gatedSeconds: gated.count / BINS_PER_SECOND,
      loudnessRangeLu: range?.rangeLu ?? null,
      loudnessRangeLowLufs: range?.lowLufs ?? null,
      loudnessRangeHighLufs: range?.highLufs ?? null,
      truePeakDbtp: most.length === 0 ? null : Math.max(...most),
      peaks: this.#peaks,
      seconds: this.#measuredBins / BINS_PER_SECOND,
    };
  }

  get #mostMomentary(): number {
    return Math.max(this.#earlier.momentary, this.#momentary.power ?? 0);
  }

  get #mostShortTerm(): number {
    return Math.max(this.#earlier.shortTerm, this.#shortTerm.power ?? 0);
  }

  #meanOfLast(bins: number): number | null {
    const { length } = this.#powers;
    if (length < bins) return null;
    const values = this.#powers.view();
    let sum = 0;
    for (let i = length - bins; i < length; i++) sum += values[i] ?? 0;
    return sum / bins;
  }
}

/** What integrated loudness is the mean of so far, of all blocks. */
class RunningLoudness {
  readonly #powers = new Growable(Float64Array);

  add(power: number): void {
    this.#powers.push(power);
  }

  gated(): GatedPowers {
    return integratedBlocks(this.#powers.view());
  }
}
