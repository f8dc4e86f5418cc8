import { gridFrame } from './frames';

test('a grid of 100 ms does not drift where it is no whole number of frames', () => {
  expect([0, 1, 2, 3].map((n) => gridFrame(n, 10, 11_025))).toEqual([0, 1103, 2205, 3308]);
  expect(gridFrame(36_000, 10, 11_025)).toBe(3600 * 11_025);
});
