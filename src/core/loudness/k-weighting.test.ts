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

test.each([11_025, 22_050, 44_100, 96_000, 192_000, 384_000])(
  'at %i Hz the middle of the band passes as at 48 kHz',
  (rate) => {
    expect(Math.abs(responseDb(rate, 500) - responseDb(48_000, 500))).toBeLessThan(0.02);
  },
);

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
