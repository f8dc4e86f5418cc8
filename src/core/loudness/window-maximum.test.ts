import fc from 'fast-check';
import { WindowMaximum } from './window-maximum';

const RATE = 48_000;
const TICK_FRAMES = 480;

/** The same, by adding up every window. */
function byBruteForce(sums: readonly number[], ticks: number) {
  let best: { power: number; startFrame: number } | undefined;
  for (let end = ticks; end <= sums.length; end++) {
    const power = sums.slice(end - ticks, end).reduce((a, b) => a + b, 0) / (ticks * TICK_FRAMES);
    if (!best || power > best.power) best = { power, startFrame: (end - ticks) * TICK_FRAMES };
  }
  return best;
}

test('the greatest window is found as by adding up every one', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 40 }),
      fc.array(fc.integer({ min: 0, max: 1000 }), { maxLength: 200 }),
      fc.integer({ min: 1, max: 100 }),
      (ticks, sums, atOnce) => {
        const maximum = new WindowMaximum(ticks, RATE);
        for (let i = 0; i < sums.length; i += atOnce) maximum.push(Float64Array.from(sums.slice(i, i + atOnce)));
        const expected = byBruteForce(sums, ticks);
        expect(maximum.power).toBe(expected?.power);
        if (expected) expect(maximum.startFrame).toBe(expected.startFrame);
      },
    ),
  );
});

test('a loud beginning leaves nothing behind in a quiet rest', () => {
  const maximum = new WindowMaximum(40, RATE);
  maximum.push(new Float64Array(40).fill(1e12));
  const loud = maximum.power;
  const quiet = new WindowMaximum(40, RATE);
  maximum.push(new Float64Array(400).fill(1e-12));
  quiet.push(new Float64Array(400).fill(1e-12));
  expect(maximum.power).toBe(loud);
  // Were earlier sums subtracted, their rounding would outweigh this.
  expect(quiet.power).toBeCloseTo(1e-12 / TICK_FRAMES, 20);
});
