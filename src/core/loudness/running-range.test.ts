import fc from 'fast-check';
import { loudnessRange, lufsToPower } from './gating';
import { RunningRange } from './running-range';

/** From digital silence over what the gate leaves out to what is over full scale. */
const power = fc.oneof(
  { weight: 1, arbitrary: fc.constant(0) },
  { weight: 5, arbitrary: fc.double({ min: -90, max: 6, noNaN: true }).map(lufsToPower) },
);

test('however many powers have come, the range so far is that of all of them', () => {
  fc.assert(
    fc.property(fc.array(power, { maxLength: 300 }), (powers) => {
      const running = new RunningRange();
      powers.forEach((own, n) => {
        running.add(own);
        if (n % 37 !== 0 && n !== powers.length - 1) return;
        const whole = loudnessRange(powers.slice(0, n + 1));
        const soFar = running.range();
        if (whole === null) expect(soFar).toBeNull();
        else expect(soFar?.rangeLu).toBeCloseTo(whole.rangeLu, 9);
      });
    }),
  );
});

test('it has room for hours', () => {
  const running = new RunningRange();
  const powers = Array.from({ length: 3 * 36_000 }, (_, n) => lufsToPower(-40 + 20 * Math.sin(n)));
  for (const own of powers) running.add(own);
  expect(running.range()).toEqual(loudnessRange(powers));
});
