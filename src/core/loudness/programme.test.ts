import { seededRandom } from '@/cli/demo/random';
import { measure, referenceSegment, stereo, tone } from '../../../tests/fixtures/signals';

const RATE = 48_000;

function noise(frames: number, amplitude: number, seed = 1): Float32Array {
  const random = seededRandom(seed);
  return Float32Array.from({ length: frames }, () => (random() - 0.5) * 2 * amplitude);
}

test('the reference’s result does not depend on how the frames are cut', () => {
  const channels = [noise(RATE * 5 + 77, 0.3, 1), noise(RATE * 5 + 77, 0.5, 2)];
  const whole = referenceSegment(channels, RATE, 1_000_000);
  for (const pieceFrames of [15, 16, 479, 4801, 65_536]) {
    expect(referenceSegment(channels, RATE, pieceFrames)).toEqual(whole);
  }
});

test('mono is read as two loudspeakers play it, 3.01 LU louder; nothing else is', () => {
  const samples = noise(RATE * 5, 0.3);
  const { readings } = measure([samples], RATE);
  const both = measure(stereo(samples), RATE).readings;
  expect(readings.integratedAsTwoSpeakersLufs).toBeCloseTo(both.integratedLufs ?? Number.NaN, 9);
  expect((readings.integratedAsTwoSpeakersLufs ?? Number.NaN) - (readings.integratedLufs ?? Number.NaN)).toBeCloseTo(
    3.0103,
    3,
  );
  expect(both.integratedAsTwoSpeakersLufs).toBeNull();
});

test('silence has no level at all, and nothing is NaN or infinite', () => {
  const { readings } = measure(stereo(new Float32Array(RATE * 4)), RATE);
  expect(readings).toMatchObject({
    integratedLufs: null,
    loudnessRangeLu: null,
    maxMomentaryLufs: null,
    maxShortTermLufs: null,
    truePeakDbtp: null,
    samplePeakDbfs: null,
    rmsDbfs: null,
    noiseFloorDbfs: null,
    peakToLoudnessLu: null,
    clippedRuns: 0,
  });
  expect(JSON.stringify(readings)).not.toMatch(/NaN|Infinity/);
});

test.each([
  [0.399, null, null],
  [0.4, 'number', null],
  [2.999, 'number', null],
  [3, 'number', 'number'],
])('%f s: momentary and integrated need 400 ms, short-term and range 3 s', (seconds, momentary, shortTerm) => {
  const { readings } = measure([tone([{ seconds, levelDbfs: -20 }], RATE)], RATE);
  const kind = (value: number | null) => (value === null ? null : typeof value);
  expect(kind(readings.integratedLufs)).toBe(momentary);
  expect(kind(readings.maxMomentaryLufs)).toBe(momentary);
  expect(kind(readings.maxShortTermLufs)).toBe(shortTerm);
  expect(kind(readings.loudnessRangeLu)).toBe(shortTerm);
  expect(kind(readings.truePeakDbtp)).toBe('number');
});

test('RMS is stated re full-scale peak: a full-scale sine reads −3.01 (AES17 would call it 0 dBFS; from memory)', () => {
  const { readings } = measure(stereo(tone([{ seconds: 2, levelDbfs: 0 }], RATE)), RATE);
  expect(readings.rmsDbfs).toBeCloseTo(-3.0103, 3);
});

test('DC is the mean of the samples, per channel', () => {
  const left = tone([{ seconds: 2, levelDbfs: -20 }], RATE).map((x) => x + 0.01);
  const { readings } = measure([left, new Float32Array(left.length)], RATE);
  expect(readings.perChannel[0]?.dcOffset).toBeCloseTo(0.01, 6);
  expect(readings.perChannel[1]?.dcOffset).toBe(0);
});

test('the noise floor is the quietest half-second', () => {
  const samples = noise(RATE * 6, 0.2);
  samples.set(noise(RATE, 0.001, 3), 2 * RATE);
  const { readings } = measure([samples], RATE);
  // Uniform noise of amplitude a has the power a²/3.
  expect(readings.noiseFloorDbfs).toBeCloseTo(10 * Math.log10(0.001 ** 2 / 3), 0);
});

test('the places of the peaks and of the loudest windows are stated in frames', () => {
  const samples = tone(
    [
      { seconds: 5, levelDbfs: -40 },
      { seconds: 4, levelDbfs: -20 },
      { seconds: 5, levelDbfs: -40 },
    ],
    RATE,
  );
  samples[123_456] = 0.9;
  const { readings } = measure([new Float32Array(samples.length), samples], RATE);
  expect(readings.samplePeakFrame).toBe(123_456);
  expect(Math.abs(readings.truePeakFrame - 123_456)).toBeLessThanOrEqual(1);
  expect(readings.perChannel[0]?.truePeakDbtp).toBeNull();
  const seconds = (readings.maxShortTermFrame ?? Number.NaN) / RATE;
  expect(seconds).toBeGreaterThanOrEqual(5);
  expect(seconds).toBeLessThanOrEqual(6.05);
});

test('the LFE counts in peaks but not in loudness', () => {
  const silent = new Float32Array(RATE * 4);
  const lfe = tone([{ seconds: 4, levelDbfs: -6 }], RATE, 60);
  const { readings } = measure([silent, silent, silent, lfe, silent, silent], RATE);
  expect(readings.integratedLufs).toBeNull();
  expect(readings.truePeakDbtp).toBeCloseTo(-6, 1);
});

test.each([8_000, 11_025, 22_050, 44_100, 384_000])('at %i Hz a steady tone reads its level', (rate) => {
  const { readings, series } = measure(stereo(tone([{ seconds: 5, levelDbfs: -23 }], rate)), rate);
  // Near Nyquist the bilinear transform bends the shelf: at 8 kHz, 1 kHz stands lower on it than in the standard's table.
  expect(Math.abs((readings.integratedLufs ?? Number.NaN) + 23)).toBeLessThan(rate < 16_000 ? 0.2 : 0.05);
  expect(series.weightedPower).toHaveLength(50);
});
