import type { Unit } from '../units/format';
import type { Readings } from './readings';

/** What the readings that are listed for people are called, and their units: on the desk, by the command, on certificates. */
export const READING_NAMES = {
  integratedLufs: { name: 'Integrated', unit: 'LUFS' },
  integratedAsTwoSpeakersLufs: { name: 'On two speakers', unit: 'LUFS' },
  loudnessRangeLu: { name: 'Loudness range', unit: 'LU' },
  maxMomentaryLufs: { name: 'Momentary max', unit: 'LUFS' },
  maxShortTermLufs: { name: 'Short-term max', unit: 'LUFS' },
  truePeakDbtp: { name: 'True peak', unit: 'dBTP' },
  samplePeakDbfs: { name: 'Sample peak', unit: 'dBFS' },
  peakToLoudnessLu: { name: 'PLR', unit: 'LU' },
  rmsDbfs: { name: 'RMS', unit: 'dBFS' },
  noiseFloorDbfs: { name: 'Noise floor', unit: 'dBFS' },
} as const satisfies Partial<Record<keyof Readings, { name: string; unit: Unit }>>;

/** A reading that is listed. */
export type NamedReading = keyof typeof READING_NAMES;
export const NAMED_READINGS = Object.keys(READING_NAMES) as NamedReading[];
