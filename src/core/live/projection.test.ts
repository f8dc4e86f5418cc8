import { LineMeter } from './line-meter';
import { projectTarget } from './projection';

const RATE = 8000;

/** A tone of 997 Hz that follows another, each for so many seconds at a level in dBFS. */
function measured(parts: readonly (readonly [seconds: number, dbfs: number])[]) {
  const meter = new LineMeter(RATE, [1]);
  for (const [seconds, dbfs] of parts) {
    const samples = Float32Array.from(
      { length: seconds * RATE },
      (_, n) => 10 ** (dbfs / 20) * Math.sin((2 * Math.PI * 997 * n) / RATE),
    );
    meter.process([samples], samples.length);
  }
  return meter.finish().readings;
}

test('a rest that averages what is asked for brings the whole to its target', () => {
  const soFar = measured([
    [60, -16],
    [30, -80],
    [30, -22],
  ]);
  const projection = projectTarget(soFar, -23, 300);
  expect(projection.kind).toBe('average');
  if (projection.kind !== 'average') return;
  expect(projection.remainingSeconds).toBeCloseTo(180, 0);
  // In one channel a tone of 997 Hz reads 3.0 LU less than its level in dBFS (EBU Tech 3341, test signal 1, halved).
  const rest = projection.averageLufs + (-22 - (measured([[10, -22]]).integratedLufs ?? 0));
  const whole = measured([
    [60, -16],
    [30, -80],
    [30, -22],
    [180, rest],
  ]);
  expect(Math.abs((whole.integratedLufs ?? 0) + 23)).toBeLessThan(0.05);
});

test('where nothing that counts could bring it there, that is said, and how near it can come', () => {
  const soFar = measured([[60, -6]]);
  const late = projectTarget(soFar, -23, 70);
  expect(late.kind).toBe('out-of-reach');
  if (late.kind === 'out-of-reach') expect(late.nearestLufs).toBeGreaterThan(-12);
  expect(projectTarget(measured([[60, -50]]), -23, 60.1).kind).toBe('out-of-reach');
  expect(projectTarget(soFar, -23, 60).kind).toBe('over-time');
  expect(projectTarget(measured([]), -23, 60).kind).toBe('nothing-measured');
});
