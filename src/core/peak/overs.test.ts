import { findOvers } from './overs';

const series = {
  peaks: [Float32Array.from([0.5, 1, 0.95, 0.2, 0.1, 0.95]), Float32Array.from([0.5, 0.2, 1.1, 0.2, 0.1, 0.2])],
  frames: [
    Float64Array.from([0, 4810, 9700, 15_000, 20_000, 25_000]),
    Float64Array.from([0, 4820, 9710, 15_010, 20_010, 25_010]),
  ],
};

test('bins that follow one another are one over, with its highest peak and all its channels', () => {
  const overs = findOvers(series, 0, -1);
  expect(overs).toHaveLength(2);
  expect(overs[0]).toMatchObject({ startBin: 1, endBin: 3, frame: 9710, channels: [0, 1] });
  expect(overs[0]?.excessDb).toBeCloseTo(20 * Math.log10(series.peaks[1]?.[2] ?? Number.NaN) + 1, 9);
  expect(overs[1]).toMatchObject({ startBin: 5, endBin: 6, frame: 25_000, channels: [0] });
});

test('the gain moves the peaks against the ceiling', () => {
  expect(findOvers(series, -3, -1)).toHaveLength(0);
  expect(findOvers(series, 20, -1)).toHaveLength(1);
});
