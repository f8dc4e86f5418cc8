import fc from 'fast-check';
import { integratedLufs } from './gating';
import { integratedCurve, MOMENTARY_BINS, peakColumns, type Series, slidingMean } from './series';

const series = (peaks: number[], power: number[]): Series => ({
  weightedPower: Float64Array.from(power),
  energies: [],
  truePeaks: [Float32Array.from(peaks)],
  truePeakOffsets: [Uint16Array.from(peaks, (_, i) => i % 100)],
});

test('a short series is shown whole', () => {
  const cut = peakColumns(series([0.25, 0.5, 0.75], [1, 1, 1]), 48_000, 6000);
  expect(cut.binsPerColumn).toBe(1);
  expect([...(cut.peaks[0] as Float32Array)]).toEqual([0.25, 0.5, 0.75]);
  expect([...(cut.frames[0] as Float64Array)]).toEqual([0, 4801, 9602]);
});

test('of a long one every column keeps its greatest peak, with its frame', () => {
  const peaks = Array.from({ length: 1000 }, (_, i) => (i === 777 ? 1 : 0.25));
  const power = Array.from({ length: 1000 }, (_, i) => (i >= 400 && i < 404 ? 1 : 1e-4));
  const cut = peakColumns(series(peaks, power), 48_000, 100);
  expect(cut.binsPerColumn).toBe(10);
  expect(cut.peaks[0]).toHaveLength(100);
  expect(cut.peaks[0]?.[77]).toBe(1);
  expect(cut.frames[0]?.[77]).toBe(777 * 4800 + 77);
});

test('what is integrated so far is what the meter says of as much, but for half a tenth of an LU', () => {
  let state = 7;
  const power = Array.from({ length: 900 }, (_, i) => {
    state = (state * 16_807) % 2_147_483_647;
    return 10 ** (-5 + 3 * (state / 2_147_483_647) + (i > 300 && i < 500 ? -4 : 0));
  });
  const curve = integratedCurve(power);
  expect(curve[MOMENTARY_BINS - 2]).toBeNaN();
  for (const bins of [4, 50, 299, 420, 900]) {
    const exact = integratedLufs(slidingMean(power.slice(0, bins), MOMENTARY_BINS)) ?? Number.NaN;
    expect(Math.abs((curve[bins - 1] ?? Number.NaN) - exact)).toBeLessThanOrEqual(0.05);
  }
  expect(integratedCurve(new Float64Array(10)).every(Number.isNaN)).toBe(true);
});

test('a sliding mean is that of each window added up by itself', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 1e6 }), { maxLength: 120 }),
      fc.integer({ min: 1, max: 40 }),
      (values, bins) => {
        const expected = Array.from({ length: Math.max(0, values.length - bins + 1) }, (_, i) => {
          return values.slice(i, i + bins).reduce((sum, value) => sum + value, 0) / bins;
        });
        expect([...slidingMean(values, bins)]).toEqual(expected);
      },
    ),
  );
  // What was loud leaves nothing behind.
  const quiet = slidingMean([1e12, ...new Array<number>(9).fill(1e-12)], 4);
  expect(quiet[6]).toBeCloseTo(1e-12, 20);
});
