import { bandWidths, cancelledInMonoDb } from './stereo-width';

const pairOf = (left: number[], right: number[], product: number[]) => ({
  left: Float64Array.from(left),
  right: Float64Array.from(right),
  product: Float64Array.from(product),
});

test.each([
  ['the same in both', 1, 1, 1, { sideShare: 0, balanceDb: 0 }, 0],
  ['nothing in common', 1, 1, 0, { sideShare: 0.5, balanceDb: 0 }, 3.01],
  ['one inverted', 1, 1, -1, { sideShare: 1, balanceDb: 0 }, 120],
  ['one alone', 1, 0, 0, { sideShare: 0.5, balanceDb: -24 }, 3.01],
  ['the right one stronger', 1, 4, 2, { balanceDb: 6.02 }, 0.46],
])('%s', (_, left, right, product, expected, lossDb) => {
  const pair = pairOf([left], [right], [product]);
  const [width] = bandWidths(pair, 3);
  for (const [name, value] of Object.entries(expected)) {
    expect(width?.[name as keyof typeof expected]).toBeCloseTo(value, 2);
  }
  expect(width?.powerShare).toBe(1);
  expect(cancelledInMonoDb(pair)).toBeCloseTo(lossDb, 1);
});

test('bands are taken together, and silent ones have no width', () => {
  const widths = bandWidths(pairOf([1, 1, 0, 0, 1, 1, 1], [1, 1, 0, 0, 1, 1, 1], [2, -2, 0, 0, 0, 0, 0]), 2);
  expect(widths).toHaveLength(3);
  expect(widths[0]).toMatchObject({ sideShare: 0.5, powerShare: 0.4 });
  expect(widths[1]).toBeNull();
  expect(widths[2]).toMatchObject({ sideShare: 0.5, powerShare: 0.6 });
  expect(cancelledInMonoDb(pairOf([0], [0], [0]))).toBeNull();
});
