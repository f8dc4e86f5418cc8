import type { Spec } from '@/core/spec/spec';
import type { RuleScale } from '../rule/rule-geometry';

/** Absolute, or one of the two EBU scales (EBU Tech 3341, from memory), which are read from the target. */
export const GAUGE_SCALES = ['absolute', 'ebu-9', 'ebu-18'] as const;
export type GaugeScale = (typeof GAUGE_SCALES)[number];

/** Target of EBU R 128, which an EBU scale has in the absence of any other. */
const EBU_TARGET_LUFS = -23;

/** In LU, from the target. */
const ENDS: Readonly<Record<Exclude<GaugeScale, 'absolute'>, readonly [number, number]>> = {
  'ebu-9': [-18, 9],
  'ebu-18': [-36, 18],
};

/** The loudness that is 0 LU for a spec. */
export function zeroLufs({ loudness }: Pick<Spec, 'loudness'>): number {
  return loudness?.measure === 'integrated' ? loudness.target : EBU_TARGET_LUFS;
}

/** The part of the scale that the gauge shows: that of the rule, or from a target as far as an EBU scale goes. */
export function gaugeScale(kind: GaugeScale, spec: Pick<Spec, 'loudness'>, rule: RuleScale): RuleScale {
  if (kind === 'absolute') return rule;
  const [low, high] = ENDS[kind];
  const zero = zeroLufs(spec);
  return { lowDb: zero + low, highDb: zero + high, width: rule.width };
}
