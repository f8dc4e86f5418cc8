import { measure, stereo, tone } from '../../../tests/fixtures/signals';
import { loudestPassages } from './loudest-passages';

const RATE = 8000;

test('the loudest passages are found where they are, loudest first, and none overlap', () => {
  const levels = [-40, -20, -40, -24, -40, -23, -40];
  const samples = tone(
    levels.map((levelDbfs) => ({ seconds: 4, levelDbfs })),
    RATE,
  );
  const { readings } = measure(stereo(samples), RATE);
  const [first, second, third] = readings.loudest3s;
  for (const [passage, start] of [
    [first, 4],
    [second, 20],
    [third, 12],
  ] as const) {
    const seconds = (passage?.startFrame ?? Number.NaN) / RATE;
    expect(seconds).toBeGreaterThanOrEqual(start - 0.001);
    expect(seconds).toBeLessThanOrEqual(start + 1.001);
  }
  expect(first?.lufs).toBeCloseTo(readings.maxShortTermLufs ?? Number.NaN, 1);
  const starts = readings.loudest3s.map(({ startFrame }) => startFrame).sort((a, b) => a - b);
  starts.forEach((start, i) => {
    if (i > 0) expect(start - (starts[i - 1] ?? Number.NaN)).toBeGreaterThanOrEqual(3 * RATE);
  });
  expect(readings.loudest10s.length).toBeLessThanOrEqual(2);
  expect(readings.loudest10s[0]?.lufs).toBeLessThan(first?.lufs ?? Number.NaN);
});

test('a long programme has ten, a short or silent one fewer', () => {
  expect(loudestPassages(new Float64Array(1000).fill(0.01), 30, RATE)).toHaveLength(10);
  expect(loudestPassages(new Float64Array(29).fill(0.01), 30, RATE)).toEqual([]);
  expect(loudestPassages(new Float64Array(1000), 30, RATE)).toEqual([]);
});
