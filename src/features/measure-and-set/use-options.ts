import { useMemo } from 'react';
import type { Spec } from '@/core/spec/spec';
import { gainForHeadroom, gainToCeiling, gainToTarget, solveGain } from '@/core/treatment/solver';
import type { Limit } from '@/core/treatment/steps/limit';
import { optionsOf } from '@/features/common/option-list';
import { useLevelOptions } from '@/features/common/use-limiter';
import type { Treated } from '@/features/common/use-treated';
import type { CommandId } from './commands';
import { useOptionsMessages as messages } from './messages';
import { startingPoints } from './starts';

export interface GainChoice {
  /** The command that sets it. */
  id: Extract<CommandId, 'target' | 'ceiling' | 'headroom' | 'as-it-came'>;
  name: string;
  /** Null where there is nothing to work it out from. */
  gainDb: number | null;
}

/** What can be done for a programme and a spec: gains that mean something, options where the ceiling stops them, whole treatments. */
export function useOptions({ before, prepared, source, preparation }: Treated, spec: Spec, limit: Limit | null) {
  const power = prepared?.weightedPower;
  const solution = useMemo(() => (power ? solveGain(before, power, spec) : null), [before, power, spec]);
  const isStopped = solution?.binding === 'ceiling' && spec.loudness !== undefined && solution.shortfallLu >= 0.005;
  const offered = useLevelOptions(source, preparation, spec.id, isStopped);
  const options = useMemo(() => (offered && offered !== 'failed' ? optionsOf(offered, spec) : []), [offered, spec]);
  const choices = useMemo((): GainChoice[] => {
    const plain = power ? gainToTarget(before, power, spec) : null;
    // A limiter takes some loudness itself: with it, the target lies further up.
    const target = limit && offered && offered !== 'failed' && offered.target ? offered.target.gainDb : plain;
    return [
      { id: 'target', name: messages.meetTheTarget, gainDb: target },
      { id: 'ceiling', name: messages.peakAtTheCeiling, gainDb: gainToCeiling(before, spec) },
      { id: 'headroom', name: messages.headroom, gainDb: gainForHeadroom(before) },
      { id: 'as-it-came', name: messages.noGain, gainDb: 0 },
    ];
  }, [before, power, spec, limit, offered]);
  const option = isStopped ? (options.at(-1)?.levels ?? null) : null;
  const starts = startingPoints(before, spec, choices[0]?.gainDb ?? null, option);
  return { solution, isStopped, offered, options, choices, starts };
}
