import { BINS_PER_SECOND, gridFrame } from '../units/frames';
import { powerToLufs } from './gating';
import type { Passage } from './readings';
import { slidingMean } from './series';

const PASSAGES_KEPT = 10;

/**
 * The ten loudest passages of so many 100 ms, none of which overlap, loudest first; fewer where the programme is too
 * short or else silent. Each is the loudest window that the ones before it leave room for.
 *
 * @param weightedPower weighted mean square of every complete 100 ms
 */
export function loudestPassages(weightedPower: ArrayLike<number>, bins: number, sampleRateHz: number): Passage[] {
  const means = slidingMean(weightedPower, bins);
  const passages: Passage[] = [];
  while (passages.length < PASSAGES_KEPT) {
    const start = indexOfGreatest(means);
    const lufs = powerToLufs(means[start] ?? 0);
    if (lufs === null) break;
    passages.push({ startFrame: gridFrame(start, BINS_PER_SECOND, sampleRateHz), lufs });
    means.fill(0, Math.max(0, start - bins + 1), start + bins);
  }
  return passages;
}

function indexOfGreatest(values: ArrayLike<number>): number {
  let best = 0;
  for (let i = 1; i < values.length; i++) if ((values[i] as number) > (values[best] as number)) best = i;
  return best;
}
