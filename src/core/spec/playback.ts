import type { Readings } from '../loudness/readings';
import type { Level } from '../units/decibel';
import type { Spec } from './spec';

/** How a programme plays where loudness is normalised to a spec's target. */
export interface Playback {
  targetLufs: number;
  /** Turned up by this, or down where it is negative. */
  gainDb: number;
  truePeakDbtp: Level;
  /** How far that peak then stands over the spec's ceiling; 0 where it does not. */
  excessDb: number;
}

/** Null where the spec asks for no integrated loudness, or the programme has none. */
export function playbackOf(readings: Readings, { loudness, peak }: Spec): Playback | null {
  if (loudness?.measure !== 'integrated' || readings.integratedLufs === null) return null;
  const gainDb = loudness.target - readings.integratedLufs;
  const truePeakDbtp = readings.truePeakDbtp === null ? null : readings.truePeakDbtp + gainDb;
  const excessDb = truePeakDbtp === null ? 0 : Math.max(0, truePeakDbtp - peak.ceiling - peak.allowanceDb);
  return { targetLufs: loudness.target, gainDb, truePeakDbtp, excessDb };
}
