import { lufsToPower } from '@/core/loudness/gating';
import { limiterWork, mostLost, peakCurves, REDUCTION_CLASSES_DB, spreadLu, thinned, thirdsOf } from './figures';

const powerAt = (...levels: [lufs: number, bins: number][]) => ({
  values: Float64Array.from(levels.flatMap(([lufs, bins]) => Array(bins).fill(lufsToPower(lufs)))),
  gainDb: 0,
});

test('the band that loses most is named beside the gain, and what nobody hears is passed over', () => {
  expect(mostLost([-30, -20, -90], [-28, -19.5, -120], 2)).toEqual({ band: 1, lostDb: 1.5 });
  expect(mostLost([-30, -20], [-28, -18], 2)).toBeNull();
});

test('peaks over loudness: held behind a limiter, moved by an output gain', () => {
  const peaks = [new Float32Array(60).fill(0.5), new Float32Array(60).fill(1)];
  const power = powerAt([-20, 60]);
  const levels = { gainDb: 6, heldDbtp: -1, outputGainDb: -2 };
  const { before, after, least } = peakCurves(peaks, 1, power, { ...power, gainDb: 4 }, levels);
  expect(before[59]).toBeCloseTo(20, 3);
  expect(after[59]).toBeCloseTo(-3 - -16, 3);
  expect(least).toEqual({ value: after[29], endSeconds: 3 });
});

test('thirds are read each by itself, with their gain', () => {
  const before = powerAt([-30, 100], [-24, 100], [-20, 100]);
  const thirds = thirdsOf(before, { ...before, gainDb: 3 }, 30 * 48_000, 48_000);
  expect(thirds.map(({ startFrame }) => startFrame)).toEqual([0, 480_000, 960_000]);
  expect(thirds.map(({ beforeLufs }) => Math.round(beforeLufs ?? 0))).toEqual([-30, -24, -20]);
  expect(thirds.map(({ afterLufs }) => Math.round(afterLufs ?? 0))).toEqual([-27, -21, -17]);
  expect(spreadLu(thirds)).toBeCloseTo(10, 3);
  expect(spreadLu(thirdsOf(powerAt([-200, 300]), powerAt([-200, 300]), 30 * 48_000, 48_000))).toBeNull();
});

test('reductions are counted in classes, and loudness lost is told for each level', () => {
  const reductions = [0, 0.05, 0.1, 0.6, 2.5, 12, 9, 0, 0, 0];
  const ahead = powerAt([-30, 20], [-10, 20]);
  const behind = powerAt([-30, 20], [-12, 20]);
  const { histogram, levels } = limiterWork(reductions, ahead, behind);
  expect(histogram.map(({ fromDb }) => fromDb)).toEqual(REDUCTION_CLASSES_DB);
  expect(histogram.map(({ share }) => Math.round(10 * share))).toEqual([1, 1, 0, 1, 0, 0, 0, 2]);
  const [soft, loud] = [levels[0], levels.at(-1)];
  expect(soft?.inLufs).toBeCloseTo(-30, 3);
  expect(soft?.outLufs).toBeCloseTo(-30, 3);
  expect(loud?.inLufs).toBeCloseTo(-10, 3);
  expect(loud?.outLufs).toBeCloseTo(-12, 3);
});

test('a curve is thinned to the least of each stretch', () => {
  const rows = thinned({ a: Float32Array.of(3, 1, Number.NaN, Number.NaN, 5) }, 0.1, 3);
  expect(rows.map(({ a }) => a)).toEqual([1, null, 5]);
  expect(rows.map(({ second }) => second)).toEqual([0.2, 0.4, 0.5]);
});
