import { LineClock } from './line-clock';

/** Hears so many seconds of a line that runs fast by ppm, in parts of so many ms that come up to so late. */
function heard(seconds: number, ppm: number, partMs: number, lateMs: number): LineClock {
  const clock = new LineClock(1_000_000);
  for (let lineMs = partMs, n = 0; lineMs <= seconds * 1000; lineMs += partMs, n++) {
    clock.arrived(lineMs, 1_000_000 + lineMs / (1 + ppm / 1e6) + ((n * 7919) % 97) * (lateMs / 97));
  }
  return clock;
}

test.each([
  [0, 20, 5],
  [500, 20, 30],
  [-80, 2000, 400],
])('a drift of %i ppm is found, though parts of %i ms come late by up to %i ms', (ppm, partMs, lateMs) => {
  const found = heard(1800, ppm, partMs, lateMs).driftPpm ?? Number.NaN;
  expect(Math.abs(found - ppm)).toBeLessThan(3 + lateMs / 50);
});

test('before enough was heard, nothing is said of a drift', () => {
  expect(heard(60, 500, 20, 5).driftPpm).toBeNull();
});

test('what waited at its sender and comes at once is told by when it sounded', () => {
  const clock = new LineClock(1_000_000 - 20);
  // Ten seconds come within half a second; then it goes on as it sounds.
  for (let n = 1; n <= 500; n++) clock.arrived(n * 20, 1_000_000 + n);
  for (let n = 501; n < 600; n++) clock.arrived(n * 20, 1_000_500 + (n - 500) * 20);
  expect(Math.abs(clock.clockMs(10_000) - 1_000_500)).toBeLessThan(100);
});

test('a line that drifts for a day is still told by the clock', () => {
  const seconds = 86_400;
  const clock = heard(seconds, 200, 1000, 20);
  const truth = 1_000_000 + (seconds * 1000) / (1 + 200 / 1e6);
  expect(Math.abs(clock.clockMs(seconds * 1000) - truth)).toBeLessThan(150);
});
