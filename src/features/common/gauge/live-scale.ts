import type { Spec } from '@/core/spec/spec';
import type { RuleScale } from '../rule/rule-geometry';

const LOW_DB = -42;
const HIGH_DB = 6;
/** So far under a target there is room at least. */
const UNDER_TARGET_DB = 18;
const STEP_DB = 6;

/** The scale of a gauge that stands by itself: what comes is not known yet, so it is that of its spec. */
export function liveScale({ loudness, peak }: Pick<Spec, 'loudness' | 'peak'>, width: number): RuleScale {
  const low = (loudness?.target ?? 0) - UNDER_TARGET_DB;
  return {
    lowDb: Math.min(LOW_DB, Math.floor(low / STEP_DB) * STEP_DB),
    highDb: Math.max(HIGH_DB, Math.ceil((peak.ceiling + peak.allowanceDb) / STEP_DB) * STEP_DB + STEP_DB),
    width,
  };
}
