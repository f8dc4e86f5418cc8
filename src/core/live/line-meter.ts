import { LiveMeter, type LiveReadings, LiveTally } from '../loudness/live-meter';
import { amplitudeToDb, type Level, powerToDb } from '../units/decibel';
import { BINS_PER_SECOND, gridFrame } from '../units/frames';
import { HumFinder } from './hum-finder';

/** Frames that are looked at together: what comes in larger pieces is cut. */
const PIECE_FRAMES = 4096;

/** What a line reads at the end of 100 ms of it. */
export interface LineMoment {
  /** Its number, counted from 0 since the line was opened first. */
  bin: number;
  /** The line may end, or be lost, within them. */
  isWhole: boolean;
  /** Since the start, or since they were reset. */
  readings: LiveReadings;
  /** Of these 100 ms, by channel. */
  truePeaksDbtp: readonly Level[];
  /** Of two channels, their difference against their sum; null of others, and of silence. */
  sideDb: Level;
  /** A steady tone of the mains in the last seconds. */
  humDbfs: Level;
}

/** Measures a line while it sounds, in memory that does not grow. */
export class LineMeter {
  readonly #sampleRateHz: number;
  readonly #weights: readonly number[];
  #meter: LiveMeter;
  #tally: LiveTally;
  #hum: HumFinder;
  #frames = 0;
  #bins = 0;
  /** What the present meter has taken: another begins where a line comes again. */
  #ownFrames = 0;
  #ownBins = 0;
  #isHeld = false;
  /** Of the 100 ms under way: powers of sum and difference of two channels. */
  #pair = { sum: 0, difference: 0 };
  readonly #pairs: { sum: number; difference: number }[] = [];
  #pairEnd: number;

  /** @param weights of the channels in loudness */
  constructor(sampleRateHz: number, weights: readonly number[]) {
    this.#sampleRateHz = sampleRateHz;
    this.#weights = weights;
    this.#meter = new LiveMeter(sampleRateHz, weights, PIECE_FRAMES);
    this.#tally = new LiveTally(sampleRateHz, { isEndless: true });
    this.#hum = new HumFinder(sampleRateHz);
    this.#pairEnd = gridFrame(1, BINS_PER_SECOND, sampleRateHz);
  }

  /** Frames that were taken so far. */
  get frames(): number {
    return this.#frames;
  }

  /** Whether what grows with a programme stands still. */
  get isHeld(): boolean {
    return this.#isHeld;
  }

  /** Takes frames; returns the 100 ms that they have made whole. */
  process(channels: readonly Float32Array[], frames: number): LineMoment[] {
    const moments: LineMoment[] = [];
    for (let from = 0; from < frames; from += PIECE_FRAMES) {
      const count = Math.min(PIECE_FRAMES, frames - from);
      const piece = channels.map((samples) => samples.subarray(from, from + count));
      this.#meter.process(piece, count);
      this.#hum.process(piece, count);
      if (piece.length === 2) this.#addPair(piece as [Float32Array, Float32Array], count);
      this.#frames += count;
      this.#ownFrames += count;
      moments.push(...this.#takeBins(this.#meter.take()));
    }
    return moments;
  }

  /** Takes what rings behind the last frame; after it nothing is measured. Returns the last 100 ms too, and the readings of all. */
  finish(): { moments: LineMoment[]; readings: LiveReadings } {
    const moments = this.#takeBins(this.#meter.finish());
    return { moments, readings: this.#tally.read() };
  }

  /** Measuring of what grows with a programme is held, or goes on (EBU Tech 3341, 2.5, from memory). */
  setHeld(isHeld: boolean): void {
    this.#isHeld = isHeld;
    if (isHeld) this.#tally.hold();
    else this.#tally.goOn();
  }

  /** Measures anew. */
  reset(): void {
    this.#tally = new LiveTally(this.#sampleRateHz, { isEndless: true });
    if (this.#isHeld) this.#tally.hold();
  }

  /**
   * What comes next does not follow what came: the line was away. What was measured stays measured.
   *
   * @returns number of the next 100 ms
   */
  interrupt(): number {
    this.#takeBins(this.#meter.finish());
    this.#meter = new LiveMeter(this.#sampleRateHz, this.#weights, PIECE_FRAMES);
    this.#hum = new HumFinder(this.#sampleRateHz);
    this.#tally.interrupt();
    [this.#ownFrames, this.#ownBins] = [0, 0];
    this.#pair = { sum: 0, difference: 0 };
    this.#pairs.length = 0;
    this.#pairEnd = gridFrame(1, BINS_PER_SECOND, this.#sampleRateHz);
    return this.#bins;
  }

  #addPair([left, right]: [Float32Array, Float32Array], frames: number): void {
    for (let at = 0; at < frames; ) {
      const end = Math.min(frames, at + this.#pairEnd - (this.#ownFrames + at));
      let { sum, difference } = this.#pair;
      for (; at < end; at++) {
        const [l, r] = [left[at] as number, right[at] as number];
        sum += (l + r) ** 2;
        difference += (l - r) ** 2;
      }
      this.#pair = { sum, difference };
      if (this.#ownFrames + at < this.#pairEnd) continue;
      this.#pairs.push(this.#pair);
      this.#pair = { sum: 0, difference: 0 };
      this.#pairEnd = gridFrame(this.#ownBins + this.#pairs.length + 1, BINS_PER_SECOND, this.#sampleRateHz);
    }
  }

  #takeBins(bins: ReturnType<LiveMeter['take']>): LineMoment[] {
    const before = this.#frames - this.#ownFrames;
    return bins.map((bin) => {
      this.#ownBins++;
      const endFrame =
        before + Math.min(this.#ownFrames, gridFrame(this.#ownBins, BINS_PER_SECOND, this.#sampleRateHz));
      this.#tally.add({ ...bin, endFrame });
      const pair = this.#pairs.shift();
      return {
        bin: this.#bins++,
        isWhole: bin.weightedPower !== null,
        readings: this.#tally.read(),
        truePeaksDbtp: bin.truePeaks.map(amplitudeToDb),
        sideDb: pair && pair.sum > 0 ? (powerToDb(pair.difference / pair.sum) ?? SAME_CHANNELS_DB) : null,
        humDbfs: this.#hum.levelDbfs,
      };
    });
  }
}

/** Less than any two channels differ that are not the same to the bit. */
const SAME_CHANNELS_DB = -300;
