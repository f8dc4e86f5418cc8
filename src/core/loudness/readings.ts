import type { Level } from '../units/decibel';
import type { DigitalSilence } from './digital-silence';

/** Named in every reading, so that a change of the meter can be told from a change of the sound. */
export const ENGINE_VERSION = '3.1.0';

export interface ChannelReading {
  label: string;
  truePeakDbtp: Level;
  truePeakFrame: number;
  samplePeakDbfs: Level;
  samplePeakFrame: number;
  /** Mean of the samples, as a fraction of full scale. */
  dcOffset: number;
  clippedRuns: number;
}

export interface Passage {
  startFrame: number;
  lufs: number;
}

export interface Distribution {
  /** Lower edge of the first count. */
  fromLufs: number;
  /** Values in each 1 LU from there. */
  counts: number[];
}

/**
 * What the meter says of a programme. A level is null where there is nothing to measure: silence, or too short.
 * Frames count from the start of the programme, at its own rate.
 */
export interface Readings {
  engineVersion: string;
  integratedLufs: Level;
  /** Of a mono programme, as both of two loudspeakers play it; null for any other. */
  integratedAsTwoSpeakersLufs: Level;
  loudnessRangeLu: Level;
  loudnessRangeLowLufs: Level;
  loudnessRangeHighLufs: Level;
  /** Greatest loudness of any 400 ms, sought every 10 ms; the frame is the window's first. */
  maxMomentaryLufs: Level;
  maxMomentaryFrame: number | null;
  /** Greatest loudness of any 3 s, sought every 10 ms; the frame is the window's first. */
  maxShortTermLufs: Level;
  maxShortTermFrame: number | null;
  truePeakDbtp: Level;
  truePeakFrame: number;
  samplePeakDbfs: Level;
  samplePeakFrame: number;
  perChannel: ChannelReading[];
  /** Root mean square over all channels and the whole programme, re full-scale peak: a full-scale sine is −3.01. */
  rmsDbfs: Level;
  /**
   * RMS of the quietest half-second that holds no digital silence, unweighted, re full-scale peak; null where there is no
   * such half-second.
   */
  noiseFloorDbfs: Level;
  /** Absent in readings of engines before 3. */
  digitalSilence?: DigitalSilence;
  peakToLoudnessLu: Level;
  clippedRuns: number;
  /** The ten loudest passages of 3 s and of 10 s that don't overlap, sought every 100 ms, loudest first. */
  loudest3s: Passage[];
  loudest10s: Passage[];
  /** How often each short-term loudness is heard, one value every 100 ms. */
  shortTermDistribution: Distribution | null;
}

/** The levels that are shown of a programme at a glance. */
export type GlanceLevels = Pick<Readings, 'integratedLufs' | 'rmsDbfs' | 'truePeakDbtp' | 'samplePeakDbfs'>;
