import { seededRandom } from '@/cli/demo/random';
import { measure, stereo, tone } from '../../../tests/fixtures/signals';
import { specById } from '../spec/catalogue';
import { dbToAmplitude } from '../units/decibel';
import { forecastGain } from './forecast';
import { gainForHeadroom, gainToCeiling, gainToTarget, solveGain } from './solver';
import { roundGain } from './steps/gain';

const RATE = 48_000;
const R128 = specById('ebu-r128');

/** Noise in phrases, with passages so quiet that a gain moves them over the absolute gate. */
function phrases(level: number): Float32Array {
  const random = seededRandom(5);
  return Float32Array.from({ length: RATE * 24 }, (_, n) => {
    const second = Math.floor(n / RATE);
    return (random() - 0.5) * level * ([1, 0.3, 0.0006, 0.05][second % 4] ?? Number.NaN);
  });
}

test.each([-20, -6.02, 3, 12, 30])('the forecast of %f dB equals a measurement of the gained samples', (gainDb) => {
  const samples = phrases(0.02);
  const source = measure(stereo(samples), RATE);
  const gained = measure(stereo(samples.map((x) => x * dbToAmplitude(gainDb))), RATE).readings;
  const forecast = forecastGain(source.readings, source.series.weightedPower, gainDb);
  for (const key of [
    'integratedLufs',
    'loudnessRangeLu',
    'loudnessRangeLowLufs',
    'maxMomentaryLufs',
    'maxShortTermLufs',
    'truePeakDbtp',
    'samplePeakDbfs',
    'rmsDbfs',
    'noiseFloorDbfs',
    'peakToLoudnessLu',
  ] as const) {
    expect(Math.abs((forecast[key] ?? Number.NaN) - (gained[key] ?? Number.NaN))).toBeLessThan(1e-4);
  }
});

test('a target is met within half of a gain step, though gating bends the loudness', () => {
  const { readings, series } = measure(stereo(phrases(0.002)), RATE);
  const gainDb = gainToTarget(readings, series.weightedPower, R128) ?? Number.NaN;
  expect(
    Math.abs((forecastGain(readings, series.weightedPower, gainDb).integratedLufs ?? Number.NaN) + 23),
  ).toBeLessThan(0.0051);
});

test('where the ceiling comes first, the gain stops there and the shortfall is stated', () => {
  const samples = tone([{ seconds: 10, levelDbfs: -30 }], RATE);
  samples[200_000] = 0.5;
  const { readings, series } = measure(stereo(samples), RATE);
  const solution = solveGain(readings, series.weightedPower, R128);
  expect(solution).toMatchObject({ binding: 'ceiling' });
  const after = forecastGain(readings, series.weightedPower, solution?.gainDb ?? 0);
  expect(after.truePeakDbtp).toBeLessThanOrEqual(-1);
  expect(after.truePeakDbtp).toBeGreaterThan(-1.011);
  expect(solution?.shortfallLu).toBeCloseTo(-23 - (after.integratedLufs ?? Number.NaN), 6);
});

test('where the target comes first, nothing is short', () => {
  const { readings, series } = measure(stereo(tone([{ seconds: 10, levelDbfs: -10 }], RATE)), RATE);
  expect(solveGain(readings, series.weightedPower, R128)).toMatchObject({ binding: 'target', shortfallLu: 0 });
  expect(solveGain(readings, series.weightedPower, R128)?.gainDb).toBeCloseTo(-13, 1);
});

test('the short form’s short-term limit can bind', () => {
  const samples = tone(
    [
      { seconds: 3, levelDbfs: -20 },
      { seconds: 57, levelDbfs: -36 },
    ],
    RATE,
  );
  const { readings, series } = measure(stereo(samples), RATE);
  const solution = solveGain(readings, series.weightedPower, specById('ebu-r128-short'));
  expect(solution?.binding).toBe('short-term');
  expect((readings.maxShortTermLufs ?? Number.NaN) + (solution?.gainDb ?? 0)).toBeLessThanOrEqual(-18);
});

test('specs without a loudness go to their ceiling, and 6 dB are left free by true peak', () => {
  const { readings, series } = measure(stereo(tone([{ seconds: 4, levelDbfs: -12 }], RATE, 997)), RATE);
  const solution = solveGain(readings, series.weightedPower, specById('premaster'));
  expect(solution).toMatchObject({ binding: 'ceiling', shortfallLu: 0 });
  expect(solution?.gainDb).toBe(gainForHeadroom(readings));
  expect(solution?.gainDb).toBeCloseTo(6, 1);
});

test('an audiobook goes to the middle of its RMS window', () => {
  const { readings, series } = measure([tone([{ seconds: 4, levelDbfs: -30 }], RATE)], RATE);
  const solution = solveGain(readings, series.weightedPower, specById('audiobook-retail'));
  expect((readings.rmsDbfs ?? Number.NaN) + (solution?.gainDb ?? 0)).toBeCloseTo(-20.5, 2);
});

test('silence and the too short have no gain', () => {
  for (const samples of [new Float32Array(RATE), tone([{ seconds: 0.2, levelDbfs: -10 }], RATE)]) {
    const { readings, series } = measure([samples], RATE);
    expect(solveGain(readings, series.weightedPower, R128)).toBeNull();
  }
  expect(gainToCeiling(measure([new Float32Array(RATE)], RATE).readings, R128)).toBeNull();
});

test('gains stand on hundredths, never above what a limit allows, and within ±60 dB', () => {
  expect(roundGain(4.6449)).toBe(4.64);
  expect(roundGain(-1.111, 'down')).toBe(-1.12);
  expect(roundGain(0.07, 'down')).toBe(0.07);
  expect(roundGain(99)).toBe(60);
  expect(Object.is(roundGain(-0.001), -0) ? 'negative zero' : roundGain(-0.001)).not.toBe('negative zero');
});
