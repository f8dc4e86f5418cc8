import type { BandPair } from './third-octaves';

/** Where the sound of a few neighbouring bands stands between two loudspeakers. */
export interface BandWidth {
  /** Share of its power that is in the difference of the channels: 0 for mono, 0.5 for channels that have nothing in common, 1 inverted. */
  sideShare: number;
  /** Level of the right channel over the left one, in dB, held within 24. */
  balanceDb: number;
  /** Share of the power of all bands. */
  powerShare: number;
}

const MOST_BALANCE_DB = 24;

/** How wide the sound is in groups of neighbouring bands; what is left over belongs to the last. Silent ones are null. */
export function bandWidths({ left, right, product }: BandPair, bandsPerGroup: number): (BandWidth | null)[] {
  const groups = Math.max(1, Math.floor(left.length / bandsPerGroup));
  const sum = (values: Float64Array, group: number) => {
    const end = group === groups - 1 ? values.length : (group + 1) * bandsPerGroup;
    return values.subarray(group * bandsPerGroup, end).reduce((a, b) => a + b, 0);
  };
  const whole = [left, right].flatMap((values) => [...values]).reduce((a, b) => a + b, 0);
  return Array.from({ length: groups }, (_, group) => {
    const [l, r, both] = [sum(left, group), sum(right, group), sum(product, group)];
    if (!(l + r > 0)) return null;
    const balanceDb = 10 * Math.log10(r / l);
    return {
      sideShare: Math.max(0, Math.min(1, (l + r - 2 * both) / (2 * (l + r)))),
      balanceDb: Math.max(-MOST_BALANCE_DB, Math.min(MOST_BALANCE_DB, balanceDb)),
      powerShare: (l + r) / whole,
    };
  });
}

/**
 * What mono loses of two channels, in dB: the power of their difference, which cancels. 0 where both are the same, 3.01 where they have
 * nothing in common. Null in silence.
 */
export function cancelledInMonoDb({ left, right, product }: BandPair): number | null {
  const sum = (values: Float64Array) => values.reduce((a, b) => a + b, 0);
  const power = sum(left) + sum(right);
  if (!(power > 0)) return null;
  const kept = (power + 2 * sum(product)) / (2 * power);
  return kept >= 1 ? 0 : -10 * Math.log10(Math.max(1e-12, kept));
}
