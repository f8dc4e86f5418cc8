import { BINS_PER_SECOND } from '../units/frames';
import { SILENT_POWER } from './digital-silence';
import { quietestHalfSecond } from './quietest-half-second';

/** What stands ahead of a programme's first sound and behind its last. */
export interface Edges {
  headSeconds: number;
  tailSeconds: number;
}

/** A 100 ms this far above the quietest belongs to the programme; no document says how far, the number is ours. */
const ABOVE_QUIETEST_DB = 12;
/** Whatever stands this little below the mean is heard: where nothing is quiet, the quietest half-second is programme too. */
const BELOW_MEAN_DB = 12;
/** A quietest below this is silence: what stands above that is heard. */
const QUIETEST_POWER = 1e-8;

/**
 * The time before the first 100 ms that is heard, and after the last: those well above the quietest half-second of the whole
 * that holds no digital silence. Of a programme that is never quiet, or of nothing, both are 0.
 *
 * @param weightedPower loudness-weighted mean square of every 100 ms
 */
export function edgesOf(weightedPower: ArrayLike<number>): Edges {
  const bins = weightedPower.length;
  const { quietest, mean } = levelsOf(weightedPower);
  const heard = Math.min(
    Math.max(QUIETEST_POWER, quietest) * 10 ** (ABOVE_QUIETEST_DB / 10),
    mean * 10 ** (-BELOW_MEAN_DB / 10),
  );
  let first = 0;
  while (first < bins && (weightedPower[first] as number) <= heard) first++;
  if (first === bins) return { headSeconds: 0, tailSeconds: 0 };
  let last = bins - 1;
  while ((weightedPower[last] as number) <= heard) last--;
  return { headSeconds: first / BINS_PER_SECOND, tailSeconds: (bins - 1 - last) / BINS_PER_SECOND };
}

/** Of what is no digital silence: the quietest half-second (0 where there is none), and the mean. */
function levelsOf(weightedPower: ArrayLike<number>): { quietest: number; mean: number } {
  let [total, counted] = [0, 0];
  for (let bin = 0; bin < weightedPower.length; bin++) {
    const power = weightedPower[bin] ?? 0;
    if (power < SILENT_POWER) continue;
    total += power;
    counted++;
  }
  return { quietest: quietestHalfSecond(weightedPower)?.power ?? 0, mean: counted > 0 ? total / counted : 0 };
}
