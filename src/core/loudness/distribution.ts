import { ABSOLUTE_GATE_LUFS, powerToLufs } from './gating';
import type { Distribution } from './readings';

/**
 * How often each short-term loudness is heard: of the values at or above −70 LUFS, how many lie in each 1 LU from the
 * lowest that occurs to the highest. Null where none does.
 *
 * @param shortTermPowers weighted mean squares of 3 s, one for every 100 ms
 */
export function shortTermDistribution(shortTermPowers: ArrayLike<number>): Distribution | null {
  const counts = new Map<number, number>();
  for (let i = 0; i < shortTermPowers.length; i++) {
    const lufs = powerToLufs(shortTermPowers[i] as number);
    if (lufs === null || lufs < ABSOLUTE_GATE_LUFS) continue;
    counts.set(Math.floor(lufs), (counts.get(Math.floor(lufs)) ?? 0) + 1);
  }
  if (counts.size === 0) return null;
  const fromLufs = Math.min(...counts.keys());
  const length = Math.max(...counts.keys()) - fromLufs + 1;
  return { fromLufs, counts: Array.from({ length }, (_, i) => counts.get(fromLufs + i) ?? 0) };
}
