import type { LiveReadings } from '@/core/loudness/live-meter';
import { assessLoudness } from '@/core/spec/requirements/loudness';
import { assessPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import type { Level } from '@/core/units/decibel';
import type { MarkState } from '../state-mark';

/** Of a limit that a spec may have: whether it was kept so far. */
export function limitState(level: Level, most: number | undefined): MarkState | null {
  if (most === undefined || level === null) return null;
  return level > most + 0.001 ? 'over' : 'inside';
}

const UNKNOWN = { rmsDbfs: null, samplePeakDbfs: null };

/** How the integrated loudness so far stands to a spec; null where there is none, or it asks for none. */
export function integratedState({ integratedLufs, truePeakDbtp }: LiveReadings, { loudness }: Spec): MarkState | null {
  if (loudness?.measure !== 'integrated' || integratedLufs === null) return null;
  return assessLoudness(loudness, { ...UNKNOWN, integratedLufs, truePeakDbtp }).state;
}

/** How the highest true peak so far stands to a spec. */
export function peakState({ integratedLufs, truePeakDbtp }: LiveReadings, spec: Spec): MarkState | null {
  if (spec.peak.measure !== 'true' || truePeakDbtp === null) return null;
  return assessPeak(spec, { ...UNKNOWN, integratedLufs, truePeakDbtp }).state;
}
