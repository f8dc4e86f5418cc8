import type { Readings } from '../loudness/readings';
import { specLoudness } from '../spec/requirements/loudness';
import { specPeak } from '../spec/requirements/peak';
import type { Spec } from '../spec/spec';

export interface LimitDistance {
  limit: 'target' | 'ceiling' | 'short-term' | 'momentary';
  /** Gain that is left until it is met; negative where it is passed already. */
  leftDb: number;
}

/** How far every limit of a spec is from a programme as it is now treated, nearest first. With a limiter no peak is in the way. */
export function limitDistances(treated: Readings, spec: Spec, isLimited: boolean): LimitDistance[] {
  const loudness = spec.loudness && specLoudness(treated, spec);
  const peak = isLimited ? null : specPeak(treated, spec);
  const distances: LimitDistance[] = [];
  const add = (limit: LimitDistance['limit'], most: number | undefined, level: number | null | undefined) => {
    if (most !== undefined && level != null) distances.push({ limit, leftDb: most - level });
  };
  add('target', spec.loudness?.target, loudness);
  add('ceiling', spec.peak.ceiling + spec.peak.allowanceDb, peak);
  add('short-term', spec.maxShortTermLufs, treated.maxShortTermLufs);
  add('momentary', spec.maxMomentaryLufs, treated.maxMomentaryLufs);
  return distances.sort((a, b) => a.leftDb - b.leftDb);
}
