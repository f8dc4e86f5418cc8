import { leastOf, peakToShortTerm } from '@/core/loudness/peak-to-short-term';
import { loudnessCurve, MOMENTARY_BINS } from '@/core/loudness/series';
import { readPowerSpan } from '@/core/loudness/span';
import { dbToAmplitude, type Level } from '@/core/units/decibel';
import { BINS_PER_SECOND } from '@/core/units/frames';

/** A curve of weighted power, with a gain beside it. */
export interface Power {
  values: ArrayLike<number>;
  gainDb: number;
}

/** Bands this far under the strongest are not what a limiter is heard by. */
const HEARD_WITHIN_DB = 30;
const LEAST_LOSS_DB = 0.1;

/** The band that loses most beside what a gain has moved it by; null where none loses anything to speak of. */
export function mostLost(
  before: ArrayLike<number>,
  after: ArrayLike<number>,
  gainDb: number,
): { band: number; lostDb: number } | null {
  const strongest = Array.from(before).reduce((a, b) => Math.max(a, b), Number.NEGATIVE_INFINITY);
  let most: { band: number; lostDb: number } | null = null;
  for (let band = 0; band < before.length; band++) {
    const level = before[band] as number;
    const lostDb = level + gainDb - (after[band] as number);
    if (level < strongest - HEARD_WITHIN_DB || lostDb < LEAST_LOSS_DB) continue;
    if (!most || lostDb > most.lostDb) most = { band, lostDb };
  }
  return most;
}

/** A curve of the peaks over the loudness of each 3 s, before and after, and the least of it after. */
export interface PeakCurves {
  before: Float32Array;
  after: Float32Array;
  least: ReturnType<typeof leastOf>;
}

/**
 * @param peaks of the prepared programme by channel, greatest of each column
 * @param heldDbtp no peak stands higher behind a limiter, before the output gain
 */
export function peakCurves(
  peaks: readonly Float32Array[],
  binsPerColumn: number,
  before: Power,
  after: Power,
  levels: { gainDb: number; heldDbtp: number; outputGainDb: number },
): PeakCurves {
  const [first = new Float32Array(0)] = peaks;
  const greatest = first.map((_, i) => peaks.reduce((most, own) => Math.max(most, own[i] as number), 0));
  const [gain, held, output] = [levels.gainDb, levels.heldDbtp, levels.outputGainDb].map(dbToAmplitude) as [
    number,
    number,
    number,
  ];
  const limited = greatest.map((peak) => Math.min(gain * peak, held) * output);
  const afterCurve = peakToShortTerm(limited, after, binsPerColumn);
  return {
    before: peakToShortTerm(greatest, before, binsPerColumn),
    after: afterCurve,
    least: leastOf(afterCurve, binsPerColumn),
  };
}

/** A third of a programme, in treated frames, and its integrated loudness before and after. */
export interface Third {
  startFrame: number;
  endFrame: number;
  beforeLufs: Level;
  afterLufs: Level;
}

export function thirdsOf(before: Power, after: Power, frames: number, sampleRateHz: number): Third[] {
  return [0, 1, 2].map((i) => {
    const [startFrame, endFrame] = [Math.round((i * frames) / 3), Math.round(((i + 1) * frames) / 3)];
    const read = ({ values, gainDb }: Power) =>
      readPowerSpan(values, sampleRateHz, { startFrame, endFrame, gainDb }).integratedLufs;
    return { startFrame, endFrame, beforeLufs: read(before), afterLufs: read(after) };
  });
}

/** How far the loudest third stands above the softest, in LU; null where one is silent. */
export function spreadLu(thirds: readonly Third[]): number | null {
  const levels = thirds.map(({ afterLufs }) => afterLufs).filter((level) => level !== null);
  return levels.length < thirds.length ? null : Math.max(...levels) - Math.min(...levels);
}

/** What a limiter does: how often it takes how much, and what it leaves of loudness at each level. */
export interface LimiterWork {
  /** Share of the programme's tenths of a second whose greatest reduction is within `fromDb` and the next; the last has all above. */
  histogram: { fromDb: number; share: number }[];
  /** Mean momentary loudness behind the limiter for each 2 LU of momentary loudness ahead of it. */
  levels: { inLufs: number; outLufs: number }[];
}

/** Classes of reduction, in dB: what limits at all, and how much of it is heard. */
export const REDUCTION_CLASSES_DB = [0.1, 0.5, 1, 2, 3, 4, 6, 9];
const LEVEL_CLASS_LU = 2;
/** Softer than this is noise between the sounds. */
const SOFTEST_LUFS = -60;

/**
 * @param reductionsDb greatest of each 100 ms
 * @param ahead weighted power of each 100 ms ahead of the limiter, the gain beside it
 * @param behind the same behind it
 */
export function limiterWork(reductionsDb: ArrayLike<number>, ahead: Power, behind: Power): LimiterWork {
  const counts = REDUCTION_CLASSES_DB.map(() => 0);
  for (let i = 0; i < reductionsDb.length; i++) {
    const own = REDUCTION_CLASSES_DB.findLastIndex((fromDb) => (reductionsDb[i] as number) >= fromDb);
    if (own >= 0) counts[own] = (counts[own] as number) + 1;
  }
  const [inCurve, outCurve] = [ahead, behind].map(({ values, gainDb }) =>
    loudnessCurve(values, MOMENTARY_BINS, gainDb),
  );
  const classes = new Map<number, { inSum: number; outSum: number; count: number }>();
  inCurve?.forEach((inLufs, i) => {
    const outLufs = outCurve?.[i] ?? Number.NaN;
    if (!(inLufs >= SOFTEST_LUFS) || !Number.isFinite(outLufs)) return;
    const key = Math.floor(inLufs / LEVEL_CLASS_LU);
    const { inSum, outSum, count } = classes.get(key) ?? { inSum: 0, outSum: 0, count: 0 };
    classes.set(key, { inSum: inSum + inLufs, outSum: outSum + outLufs, count: count + 1 });
  });
  return {
    histogram: REDUCTION_CLASSES_DB.map((fromDb, i) => ({
      fromDb,
      share: (counts[i] as number) / Math.max(1, reductionsDb.length),
    })),
    levels: [...classes]
      .sort(([a], [b]) => a - b)
      .map(([, { inSum, outSum, count }]) => ({ inLufs: inSum / count, outLufs: outSum / count })),
  };
}

/** Every so many values of a curve, of each stretch the least, with the second at which it ends: what a chart draws. */
export function thinned(
  curves: Readonly<Record<string, Float32Array>>,
  secondsPerValue: number,
  mostPoints: number,
): Record<string, number | null>[] {
  const length = Math.max(0, ...Object.values(curves).map((curve) => curve.length));
  const stride = Math.max(1, Math.ceil(length / mostPoints));
  return Array.from({ length: Math.ceil(length / stride) }, (_, i) => ({
    second: Math.min(length, (i + 1) * stride) * secondsPerValue,
    ...Object.fromEntries(
      Object.entries(curves).map(([name, curve]) => {
        const own = curve.subarray(i * stride, (i + 1) * stride).filter(Number.isFinite);
        return [name, own.length === 0 ? null : Math.min(...own)];
      }),
    ),
  }));
}

/** The seconds of a column of peaks. */
export function columnSeconds(binsPerColumn: number): number {
  return binsPerColumn / BINS_PER_SECOND;
}
