import { LiveMeter, type LiveReadings, LiveTally } from './live-meter';

const RATE = 48_000;
const QUANTUM = 128;

/** A tone at levels that follow each other, in dBFS. */
function tones(levels: readonly { seconds: number; dbfs: number }[]): Float32Array {
  const { sin, PI } = Math;
  const frames = levels.flatMap(({ seconds, dbfs }) => Array.from({ length: seconds * RATE }, () => 10 ** (dbfs / 20)));
  return Float32Array.from(frames, (amplitude, n) => amplitude * sin((2 * PI * 997 * n) / RATE));
}

/** Hears sound as a worklet does, and has something done before a 100 ms of it. */
function heard(samples: Float32Array, at: Readonly<Record<number, (tally: LiveTally) => void>> = {}): LiveReadings {
  const meter = new LiveMeter(RATE, [1, 1], QUANTUM);
  const tally = new LiveTally(RATE);
  let bin = 0;
  for (let frame = 0; frame < samples.length; frame += QUANTUM) {
    const part = samples.subarray(frame, frame + QUANTUM);
    meter.process([part, part], part.length);
    for (const whole of meter.take()) {
      at[bin]?.(tally);
      bin++;
      tally.add({ ...whole, endFrame: frame });
    }
  }
  for (const whole of meter.finish()) tally.add({ ...whole, endFrame: samples.length });
  return tally.read();
}

test('what is heard while measuring is held counts for nothing but momentary and short-term loudness', () => {
  const quiet = { seconds: 6, dbfs: -33 };
  const loud = { seconds: 6, dbfs: -13 };
  const [all, quietOnly] = [heard(tones([quiet, loud])), heard(tones([quiet]))];
  const held = heard(tones([quiet, loud]), { 60: (tally) => tally.hold() });
  expect(held.integratedLufs).toBeCloseTo(quietOnly.integratedLufs ?? Number.NaN, 4);
  expect(held.maxMomentaryLufs).toBeCloseTo(quietOnly.maxMomentaryLufs ?? Number.NaN, 4);
  expect(held.maxShortTermLufs).toBeCloseTo(quietOnly.maxShortTermLufs ?? Number.NaN, 4);
  expect(held.loudnessRangeLu).toBeCloseTo(0, 3);
  // Its last 100 ms end with the step.
  expect(Math.abs((held.truePeakDbtp ?? Number.NaN) + 33)).toBeLessThan(0.1);
  expect(held.seconds).toBe(6);
  expect(held.momentaryLufs).toBeCloseTo(all.momentaryLufs ?? Number.NaN, 6);
  expect(held.shortTermLufs).toBeCloseTo(-13, 1);
  expect(held.peaks.map(({ nowDbtp }) => nowDbtp?.toFixed(1))).toEqual(['-13.0', '-13.0']);
});

test('when it goes on, what was left out is in none of its windows', () => {
  const level = { seconds: 5, dbfs: -23 };
  // Had the 400 ms over the burst counted, the maxima would be near -3.
  const burst = { seconds: 4, dbfs: -3 };
  const held = heard(tones([level, burst, level]), { 50: (tally) => tally.hold(), 90: (tally) => tally.goOn() });
  // EBU Tech 3341, test signal 1: 1 kHz at -23.0 dBFS in both channels reads -23.0 LUFS.
  for (const reading of [held.integratedLufs, held.maxMomentaryLufs, held.maxShortTermLufs]) {
    expect(Math.abs((reading ?? Number.NaN) + 23)).toBeLessThan(0.05);
  }
  expect(held.loudnessRangeLu).toBeCloseTo(0, 1);
  expect(held.seconds).toBe(10);
  const over = heard(tones([level, burst, level]));
  expect(over.maxMomentaryLufs).toBeCloseTo(-3, 1);
  expect(over.integratedLufs).toBeGreaterThan(-11);
});

test('going on without having been held changes nothing', () => {
  const samples = tones([{ seconds: 5, dbfs: -20 }]);
  const { integratedLufs, maxShortTermLufs } = heard(samples, { 30: (tally) => tally.goOn() });
  expect({ integratedLufs, maxShortTermLufs }).toEqual({
    integratedLufs: heard(samples).integratedLufs,
    maxShortTermLufs: heard(samples).maxShortTermLufs,
  });
});
