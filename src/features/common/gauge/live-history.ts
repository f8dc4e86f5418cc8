import type { Level } from '@/core/units/decibel';

/** Of what was heard last, one of each for every 100 ms, newest last. */
export interface LiveHistory {
  /** Over 2 s. */
  momentaryLufs: readonly Level[];
  /** Over 10 s. */
  shortTermLufs: readonly Level[];
  /** Greatest gain reduction, 0 or more, over 10 s. */
  reductionDb: readonly number[];
}

export const NO_HISTORY: LiveHistory = { momentaryLufs: [], shortTermLufs: [], reductionDb: [] };

const TRAIL_BINS = 20;
export const HISTORY_BINS = 100;

/** The same, 100 ms later. */
export function withBin(
  { momentaryLufs, shortTermLufs, reductionDb }: LiveHistory,
  bin: { momentaryLufs: Level; shortTermLufs: Level; reductionDb: number },
): LiveHistory {
  return {
    momentaryLufs: [...momentaryLufs.slice(1 - TRAIL_BINS), bin.momentaryLufs],
    shortTermLufs: [...shortTermLufs.slice(1 - HISTORY_BINS), bin.shortTermLufs],
    reductionDb: [...reductionDb.slice(1 - HISTORY_BINS), bin.reductionDb],
  };
}
