import { integratedLufs, loudnessRange, lufsToPower, powerToLufs } from './gating';

const blocks = (...lufs: number[]) => lufs.map(lufsToPower);

test('a power and its loudness are inverse', () => {
  expect(powerToLufs(lufsToPower(-23))).toBeCloseTo(-23, 12);
  expect(powerToLufs(0)).toBeNull();
});

test('blocks under −70 LUFS, and those 10 LU under the mean of the rest, do not count', () => {
  expect(integratedLufs(blocks(-23, -23, -80, -75))).toBeCloseTo(-23, 9);
  // Mean of the first gate: (P + P/100)/2, whose relative gate −36.0 leaves the −43 out.
  expect(integratedLufs(blocks(-23, -43))).toBeCloseTo(-23, 9);
  expect(integratedLufs(blocks(-71, -90))).toBeNull();
  expect(integratedLufs([])).toBeNull();
});

test('loudness range takes the 10th and the 95th percentile at the nearest rank', () => {
  // Ranks 0…20: round(20 · 0.10) = 2 and round(20 · 0.95) = 19.
  const values = Array.from({ length: 21 }, (_, i) => -30 + i * 0.5);
  const range = loudnessRange(blocks(...values));
  expect(range?.lowLufs).toBeCloseTo(-29, 9);
  expect(range?.highLufs).toBeCloseTo(-20.5, 9);
  expect(range?.rangeLu).toBeCloseTo(8.5, 9);
  expect(loudnessRange([])).toBeNull();
});
