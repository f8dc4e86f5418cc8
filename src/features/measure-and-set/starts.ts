import type { Readings } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';
import { gainForHeadroom } from '@/core/treatment/solver';
import type { Levels } from '@/core/treatment/treatment';
import { startsMessages as messages } from './messages';
import type { Steps } from './use-treatment';

/** A premaster keeps every sample's shape and leaves room (common practice, no source). */
const PREMASTER = { limit: null, outputGainDb: 0, resampleHz: null, dither: 'none' } as const;

export interface Start {
  name: string;
  hint: string;
  /** Null where there is no level to move. */
  steps: Steps | null;
}

/**
 * Whole treatments to begin with.
 *
 * @param targetGainDb gain that meets the target by itself; null where none does
 * @param option the option that reaches the target; null where gain alone does
 */
export function startingPoints(
  before: Readings,
  spec: Spec,
  targetGainDb: number | null,
  option: Levels | null,
): readonly Start[] {
  const headroomDb = gainForHeadroom(before);
  const levels = option ?? (targetGainDb === null ? null : { gainDb: targetGainDb, limit: null });
  return [
    {
      name: messages.premaster,
      hint: messages.premasterHint,
      steps: headroomDb === null ? null : { ...PREMASTER, gainDb: headroomDb },
    },
    {
      name: messages.master,
      hint: messages.masterHint(spec.name),
      steps: levels && { ...levels, outputGainDb: 0, dither: null },
    },
  ];
}
