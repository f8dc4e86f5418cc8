import { kWeighting } from './k-weighting';

test('48 kHz gives the table of ITU-R BS.1770-5, Annex 1 (from memory)', () => {
  const { shelf, highPass } = kWeighting(48_000);
  expect(shelf.b0).toBeCloseTo(1.53512485958697, 12);
  expect(shelf.b1).toBeCloseTo(-2.69169618940638, 12);
  expect(shelf.b2).toBeCloseTo(1.19839281085285, 12);
  expect(shelf.a1).toBeCloseTo(-1.69065929318241, 12);
  expect(shelf.a2).toBeCloseTo(0.73248077421585, 12);
  expect(highPass.b0).toBe(1);
  expect(highPass.b1).toBe(-2);
  expect(highPass.b2).toBe(1);
  expect(highPass.a1).toBeCloseTo(-1.99004745483398, 12);
  expect(highPass.a2).toBeCloseTo(0.99007225036621, 12);
});

/** Common rates, the least and the greatest that are read, and some that only a player with a changed speed writes. */
const RATES = [
  8_000, 8_001, 9_600, 11_025, 12_000, 16_000, 22_050, 24_000, 32_000, 44_056, 44_100, 47_999, 48_001, 88_200, 96_000,
  192_000, 384_000,
];

test.each(RATES)('at %i Hz the curve is that of 48 kHz within 0.02 dB, to 0.45 of the rate', (rate) => {
  let worst = 0;
  for (let hz = 5; hz <= Math.min(0.45 * rate, 24_000); hz += 5) {
    worst = Math.max(worst, Math.abs(responseDb(rate, hz) - responseDb(48_000, hz)));
  }
  expect(worst).toBeLessThan(rate < 11_025 ? 0.014 : rate < 44_000 ? 0.008 : 0.0015);
});

test.each(RATES.filter((rate) => rate > 48_000))('at %i Hz what is above the table stays at its plateau', (rate) => {
  for (let hz = 24_000; hz < rate / 2; hz += 100) expect(Math.abs(responseDb(rate, hz) - 4)).toBeLessThan(0.05);
});

test.each(RATES)('at %i Hz the filters are stable and of minimum phase', (rate) => {
  for (const { b0, b1, b2, a1, a2 } of Object.values(kWeighting(rate))) {
    expect(a2).toBeLessThan(1);
    expect(Math.abs(a1)).toBeLessThan(1 + a2);
    expect(Math.abs(b2 / b0)).toBeLessThanOrEqual(1);
    expect(Math.abs(b1 / b0)).toBeLessThanOrEqual(1 + b2 / b0);
  }
});

/** Gain of both stages at a frequency, in dB. */
function responseDb(rate: number, hz: number): number {
  const { shelf, highPass } = kWeighting(rate);
  const w = (2 * Math.PI * hz) / rate;
  const magnitude = ({ b0, b1, b2, a1, a2 }: typeof shelf) => {
    const part = (c0: number, c1: number, c2: number) =>
      Math.hypot(c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w), c1 * Math.sin(w) + c2 * Math.sin(2 * w));
    return part(b0, b1, b2) / part(1, a1, a2);
  };
  return 20 * Math.log10(magnitude(shelf) * magnitude(highPass));
}
