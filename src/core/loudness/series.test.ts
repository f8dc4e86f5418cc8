import { type Series, seriesColumns } from './series';

const series = (peaks: number[], power: number[]): Series => ({
  weightedPower: Float64Array.from(power),
  energies: [],
  truePeaks: [Float32Array.from(peaks)],
  truePeakOffsets: [Uint16Array.from(peaks, (_, i) => i % 100)],
});

test('a short series is shown whole', () => {
  const cut = seriesColumns(series([0.25, 0.5, 0.75], [1, 1, 1]), 48_000, 6000);
  expect(cut.binsPerColumn).toBe(1);
  expect([...(cut.peaks[0] as Float32Array)]).toEqual([0.25, 0.5, 0.75]);
  expect([...(cut.frames[0] as Float64Array)]).toEqual([0, 4801, 9602]);
});

test('of a long one every column keeps its greatest peak, with its frame, and its greatest loudness', () => {
  const peaks = Array.from({ length: 1000 }, (_, i) => (i === 777 ? 1 : 0.25));
  const power = Array.from({ length: 1000 }, (_, i) => (i >= 400 && i < 404 ? 1 : 1e-4));
  const cut = seriesColumns(series(peaks, power), 48_000, 100);
  expect(cut.binsPerColumn).toBe(10);
  expect(cut.peaks[0]).toHaveLength(100);
  expect(cut.peaks[0]?.[77]).toBe(1);
  expect(cut.frames[0]?.[77]).toBe(777 * 4800 + 77);
  expect(Math.max(...cut.momentaryLufs.filter(Number.isFinite))).toBeCloseTo(-0.691, 3);
  expect(cut.momentaryLufs.indexOf(Math.max(...cut.momentaryLufs.filter(Number.isFinite)))).toBe(40);
  // Nothing is heard of the first 3 s until they are over.
  expect(cut.shortTermLufs[1]).toBeNaN();
  expect(cut.shortTermLufs[2]).not.toBeNaN();
});
