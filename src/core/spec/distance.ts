import type { Verdict } from './assessment';

/** A demand on the format is missed or not: it counts for less than any level that is missed audibly. */
const FORMAT_MISS_DB = 0.01;

/** How far a verdict is from its spec: the greatest of its misses in dB or LU, 0 where all is inside. */
export function distanceDb({ items }: Verdict): number {
  return Math.max(
    0,
    ...items.map(({ inside, unit, deviation }) => {
      if (inside) return 0;
      const isLevel = unit === 'LUFS' || unit === 'LU' || unit === 'dBTP' || unit === 'dBFS' || unit === 'dB';
      return isLevel ? Math.abs(deviation) : FORMAT_MISS_DB;
    }),
  );
}
