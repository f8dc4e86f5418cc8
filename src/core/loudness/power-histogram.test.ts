import fc from 'fast-check';
import { gatedLufs, integratedLufs, loudnessRange, lufsToPower } from './gating';
import { LiveMeter, LiveTally } from './live-meter';
import { PowerHistogram } from './power-histogram';

const WITHIN_LU = 0.0011;

test('what is read of a histogram is within a thousandth of a LU of what all powers give', () => {
  const levels = fc.array(fc.double({ min: -90, max: 20, noNaN: true }), { minLength: 1, maxLength: 400 });
  fc.assert(
    fc.property(levels, (lufs) => {
      const powers = lufs.map(lufsToPower);
      const histogram = new PowerHistogram();
      for (const power of powers) histogram.add(power);
      const exact = { integrated: integratedLufs(powers), range: loudnessRange(powers) };
      // A gate that falls into a step takes all of it; what stands at its edge may be counted or not.
      const isAtGate = [-10, -20].some((under) => lufs.some((level) => nearGate(level, powers, under)));
      fc.pre(!isAtGate);
      const range = histogram.range();
      for (const [read, whole] of [
        [gatedLufs(histogram.gated()), exact.integrated],
        [range?.lowLufs ?? null, exact.range?.lowLufs ?? null],
        [range?.highLufs ?? null, exact.range?.highLufs ?? null],
      ] as const) {
        if (whole === null) expect(read).toBeNull();
        else expect(Math.abs((read as number) - whole)).toBeLessThan(WITHIN_LU);
      }
    }),
  );
});

/** Whether a level stands within two steps of the gate that lies so far under the mean of what passes −70 LUFS. */
function nearGate(level: number, powers: readonly number[], underLu: number): boolean {
  const passing = powers.filter((power) => power >= lufsToPower(-70));
  if (passing.length === 0) return false;
  const mean = passing.reduce((sum, power) => sum + power, 0) / passing.length;
  return Math.abs(10 * Math.log10(mean) - 0.691 + underLu - level) < 0.002;
}

test('a line that sounds for long is read as a programme is, and forgets what it has taken', () => {
  const rate = 8000;
  const meter = new LiveMeter(rate, [1], rate / 10);
  const [endless, whole] = [new LiveTally(rate, { isEndless: true }), new LiveTally(rate)];
  const part = new Float32Array(rate / 10);
  const swell = (bin: number) => 0.05 + 0.04 * Math.sin(bin / 60);
  for (let bin = 0; bin < 3000; bin++) {
    for (let i = 0; i < part.length; i++) part[i] = swell(bin) * Math.sin((2 * Math.PI * 997 * i) / rate);
    meter.process([part], part.length);
    for (const taken of meter.take()) for (const tally of [endless, whole]) tally.add({ ...taken, endFrame: bin });
  }
  const [read, exact] = [endless.read(), whole.read()];
  for (const key of ['integratedLufs', 'loudnessRangeLowLufs', 'loudnessRangeHighLufs'] as const) {
    expect(Math.abs((read[key] as number) - (exact[key] as number))).toBeLessThan(WITHIN_LU);
  }
  for (const key of [
    'maxMomentaryLufs',
    'maxShortTermLufs',
    'momentaryLufs',
    'shortTermLufs',
    'truePeakDbtp',
  ] as const) {
    expect(read[key]).toBe(exact[key]);
  }
});
