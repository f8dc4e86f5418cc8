import { LiveMeter, type LiveReadings, LiveTally } from '../loudness/live-meter';
import { amplitudeToDb, type Level } from '../units/decibel';
import { BINS_PER_SECOND, gridFrame } from '../units/frames';

/** Frames that are looked at together: what comes in larger pieces is cut. */
const PIECE_FRAMES = 4096;

/** What a line reads at the end of one second of it. */
export interface LineSecond {
  /** Counted from 1. */
  second: number;
  momentaryLufs: Level;
  shortTermLufs: Level;
  /** Since the start. */
  integratedLufs: Level;
  loudnessRangeLu: Level;
  truePeakDbtp: Level;
  /** Of this second, by channel. */
  truePeaksDbtp: readonly Level[];
}

/** Measures a line while it sounds, in memory that does not grow: what it reads each second, and since the start. */
export class LineMeter {
  readonly #sampleRateHz: number;
  readonly #meter: LiveMeter;
  readonly #tally: LiveTally;
  #frames = 0;
  #bins = 0;
  /** Greatest of the second under way, by channel, linear. */
  #peaks: number[];

  /** @param weights of the channels in loudness */
  constructor(sampleRateHz: number, weights: readonly number[]) {
    this.#sampleRateHz = sampleRateHz;
    this.#meter = new LiveMeter(sampleRateHz, weights, PIECE_FRAMES);
    this.#tally = new LiveTally(sampleRateHz, { isEndless: true });
    this.#peaks = weights.map(() => 0);
  }

  /** Frames that were taken so far. */
  get frames(): number {
    return this.#frames;
  }

  /** Takes frames; returns the seconds that they have made whole. */
  process(channels: readonly Float32Array[], frames: number): LineSecond[] {
    const seconds: LineSecond[] = [];
    for (let from = 0; from < frames; from += PIECE_FRAMES) {
      const count = Math.min(PIECE_FRAMES, frames - from);
      this.#meter.process(
        channels.map((samples) => samples.subarray(from, from + count)),
        count,
      );
      this.#frames += count;
      seconds.push(...this.#takeBins(this.#meter.take()));
    }
    return seconds;
  }

  /** Takes what rings behind the last frame; after it nothing is measured. Returns the last seconds too, and the readings of all. */
  finish(): { seconds: LineSecond[]; readings: LiveReadings } {
    const seconds = this.#takeBins(this.#meter.finish());
    return { seconds, readings: this.#tally.read() };
  }

  #takeBins(bins: ReturnType<LiveMeter['take']>): LineSecond[] {
    const seconds: LineSecond[] = [];
    for (const bin of bins) {
      this.#bins++;
      this.#tally.add({
        ...bin,
        endFrame: Math.min(this.#frames, gridFrame(this.#bins, BINS_PER_SECOND, this.#sampleRateHz)),
      });
      bin.truePeaks.forEach((peak, c) => {
        this.#peaks[c] = Math.max(this.#peaks[c] as number, peak);
      });
      if (bin.weightedPower === null || this.#bins % BINS_PER_SECOND !== 0) continue;
      seconds.push(this.#second());
      this.#peaks.fill(0);
    }
    return seconds;
  }

  #second(): LineSecond {
    const { momentaryLufs, shortTermLufs, integratedLufs, loudnessRangeLu, truePeakDbtp } = this.#tally.read();
    return {
      second: this.#bins / BINS_PER_SECOND,
      momentaryLufs,
      shortTermLufs,
      integratedLufs,
      loudnessRangeLu,
      truePeakDbtp,
      truePeaksDbtp: this.#peaks.map(amplitudeToDb),
    };
  }
}
