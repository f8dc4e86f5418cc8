import { seededRandom } from '@/cli/demo/random';
import { kernelSegments } from '../../../tests/fixtures/kernel';
import { measure, measureByReference } from '../../../tests/fixtures/signals';
import { dbToAmplitude } from '../units/decibel';
import { channelLayout } from './channel-layout';
import { ProgrammeMeter } from './programme';
import { readSpan } from './span';

const { sin, abs } = Math;
const RATE = 8000;

/** Noise that swells and falls, so that gates and ranges have something to do. */
function swelling(seconds: number, seed: number): Float32Array {
  const random = seededRandom(seed);
  return Float32Array.from(
    { length: seconds * RATE },
    (_, n) => (0.005 + 0.4 * sin(n / 21_000 + seed) ** 4) * (2 * random() - 1),
  );
}

const left = swelling(40, 1);
const right = swelling(40, 2);
const whole = measure([left, right], RATE);
const cut = (start: number, end: number) => [left.subarray(start, end), right.subarray(start, end)];

test.each([
  [0, 40],
  [3.4, 21.7],
  [10, 13.1],
  [39, 40],
])('a span on 100 ms edges, %f to %f s, is what the meter reads of it', (from, to) => {
  const [startFrame, endFrame] = [Math.round(from * RATE), Math.round(to * RATE)];
  const span = readSpan(whole.series, RATE, { startFrame, endFrame });
  const direct = measureByReference(cut(startFrame, endFrame), RATE).readings;
  // Cut out, the sound starts all at once, which the filters hear for some milliseconds.
  expect(abs((span.integratedLufs ?? Number.NaN) - (direct.integratedLufs ?? Number.NaN))).toBeLessThan(0.005);
  if (direct.loudnessRangeLu !== null) {
    expect(abs((span.range?.rangeLu ?? Number.NaN) - direct.loudnessRangeLu)).toBeLessThan(0.005);
  }
  expect(abs((span.truePeakDbtp ?? Number.NaN) - (direct.truePeakDbtp ?? Number.NaN))).toBeLessThan(0.3);
});

test('the whole programme as a span has its very readings', () => {
  const span = readSpan(whole.series, RATE, { startFrame: 0, endFrame: left.length });
  expect(span.integratedLufs).toBe(whole.readings.integratedLufs);
  expect(span.range?.rangeLu).toBe(whole.readings.loudnessRangeLu);
  expect(span.truePeakDbtp).toBeCloseTo(whole.readings.truePeakDbtp ?? Number.NaN, 5);
});

test('a span on any other edges is within 0.05 LU', () => {
  for (const startFrame of [1, 399, 1234, 77_777]) {
    const endFrame = startFrame + 15 * RATE + 41;
    const span = readSpan(whole.series, RATE, { startFrame, endFrame });
    const direct = measureByReference(cut(startFrame, endFrame), RATE).readings;
    expect(abs((span.integratedLufs ?? Number.NaN) - (direct.integratedLufs ?? Number.NaN))).toBeLessThan(0.05);
  }
});

test('a gain on a span is what the meter reads of the gained samples', () => {
  const [startFrame, endFrame] = [5 * RATE, 25 * RATE];
  const amplitude = dbToAmplitude(-18);
  const direct = measure(
    cut(startFrame, endFrame).map((samples) => samples.map((x) => x * amplitude)),
    RATE,
  ).readings;
  const span = readSpan(whole.series, RATE, { startFrame, endFrame, gainDb: -18 });
  expect(abs((span.integratedLufs ?? Number.NaN) - (direct.integratedLufs ?? Number.NaN))).toBeLessThan(0.005);
});

test('another layout is read from the same segments: channels are kept apart', () => {
  const channels = [left, right, left, right, left, new Float32Array(left.length)];
  const segments = kernelSegments(channels, RATE);
  const read = (chosen?: string) => {
    const meter = new ProgrammeMeter({ sampleRateHz: RATE, layout: channelLayout(6, 0, chosen) });
    for (const segment of segments) meter.add(segment);
    return meter.finish();
  };
  const usual = read();
  const film = read('5.1-film');
  expect(film.readings.integratedLufs).not.toBe(usual.readings.integratedLufs);
  expect(film.series.energies).toEqual(usual.series.energies);
  const weights = channelLayout(6).channels.map(({ weight }) => weight);
  usual.series.weightedPower.forEach((power, bin) => {
    const sum = weights.reduce(
      (total, weight, c) => total + weight * (usual.series.energies[c]?.[bin] ?? Number.NaN),
      0,
    );
    expect(abs(power / sum - 1)).toBeLessThan(1e-12);
  });
});
