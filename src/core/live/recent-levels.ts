import type { Level } from '../units/decibel';
import type { LineMoment } from './line-meter';
import { higher } from './line-second';

/** What was read in the last minute, one of each for every 100 ms, oldest first. */
export interface RecentLevels {
  momentaryLufs: Level[];
  shortTermLufs: Level[];
  integratedLufs: Level[];
  /** Of all channels together. */
  truePeakDbtp: Level[];
}

const RECENT_BINS = 600;

export function noLevels(): RecentLevels {
  return { momentaryLufs: [], shortTermLufs: [], integratedLufs: [], truePeakDbtp: [] };
}

/** Adds what came, and lets go of what is older than a minute. */
export function addRecent(recent: RecentLevels, moments: readonly LineMoment[]): void {
  for (const { readings, truePeaksDbtp } of moments) {
    recent.momentaryLufs.push(readings.momentaryLufs);
    recent.shortTermLufs.push(readings.shortTermLufs);
    recent.integratedLufs.push(readings.integratedLufs);
    recent.truePeakDbtp.push(higher(...truePeaksDbtp));
  }
  for (const levels of Object.values(recent) as Level[][]) levels.splice(0, levels.length - RECENT_BINS);
}
