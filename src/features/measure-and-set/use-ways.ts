import { useMemo } from 'react';
import type { Spec } from '@/core/spec/spec';
import { gainForHeadroom, gainToCeiling, gainToTarget, solveGain } from '@/core/treatment/solver';
import type { Limit } from '@/core/treatment/steps/limit';
import { answersOf } from '@/features/common/answer-list';
import { useAnswers } from '@/features/common/use-limiter';
import type { Treated } from '@/features/common/use-treated';
import type { CommandId } from './commands';
import { startingPoints } from './starts';

export interface GainChoice {
  /** The command that sets it. */
  id: Extract<CommandId, 'target' | 'ceiling' | 'headroom' | 'as-it-came'>;
  name: string;
  /** Null where there is nothing to work it out from. */
  gainDb: number | null;
}

/** What can be done for a programme and a spec: gains that mean something, ways on where the ceiling stops them, whole treatments. */
export function useWays({ before, prepared, source, preparation }: Treated, spec: Spec, limit: Limit | null) {
  const power = prepared?.weightedPower;
  const solution = useMemo(() => (power ? solveGain(before, power, spec) : null), [before, power, spec]);
  const isStopped = solution?.binding === 'ceiling' && spec.loudness !== undefined && solution.shortfallLu >= 0.005;
  const answers = useAnswers(source, preparation, spec.id, isStopped);
  const ways = useMemo(() => (answers && answers !== 'failed' ? answersOf(answers, spec) : []), [answers, spec]);
  const choices = useMemo((): GainChoice[] => {
    const plain = power ? gainToTarget(before, power, spec) : null;
    // A limiter takes some loudness itself: with it, the target lies further up.
    const target = limit && answers && answers !== 'failed' && answers.target ? answers.target.gainDb : plain;
    return [
      { id: 'target', name: 'Meet the target', gainDb: target },
      { id: 'ceiling', name: 'Stop at the ceiling', gainDb: gainToCeiling(before, spec) },
      { id: 'headroom', name: 'Leave 6 dB free', gainDb: gainForHeadroom(before) },
      { id: 'as-it-came', name: 'As it came in', gainDb: 0 },
    ];
  }, [before, power, spec, limit, answers]);
  const way = isStopped ? (ways.at(-1)?.levels ?? null) : null;
  const starts = startingPoints(before, spec, choices[0]?.gainDb ?? null, way);
  return { solution, isStopped, answers, ways, choices, starts };
}
