import type { Level } from '../units/decibel';
import type { LineMoment } from './line-meter';

/** What a line reads at the end of one second, and the most that it read within it. */
export interface LineSecond {
  momentaryLufs: Level;
  shortTermLufs: Level;
  /** Since the start, or since they were reset. */
  integratedLufs: Level;
  loudnessRangeLu: Level;
  truePeakDbtp: Level;
  /** Of this second, by channel. */
  truePeaksDbtp: readonly Level[];
}

/** Gathers the 100 ms of a second. */
export class SecondGatherer {
  #last: LineMoment | undefined;
  #truePeaksDbtp: Level[] = [];

  add(moment: LineMoment): void {
    this.#last = moment;
    this.#truePeaksDbtp = moment.truePeaksDbtp.map((level, c) => higher(level, this.#truePeaksDbtp[c] ?? null));
  }

  /** What was gathered, of which nothing is left; undefined where nothing came. */
  take(): LineSecond | undefined {
    if (!this.#last) return undefined;
    const { momentaryLufs, shortTermLufs, integratedLufs, loudnessRangeLu, truePeakDbtp } = this.#last.readings;
    const truePeaksDbtp = this.#truePeaksDbtp;
    [this.#last, this.#truePeaksDbtp] = [undefined, []];
    return { momentaryLufs, shortTermLufs, integratedLufs, loudnessRangeLu, truePeakDbtp, truePeaksDbtp };
  }
}

/** The greatest of levels; null where all are silence. */
export function higher(...levels: readonly Level[]): Level {
  const known = levels.filter((level) => level !== null);
  return known.length === 0 ? null : Math.max(...known);
}
