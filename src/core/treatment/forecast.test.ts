import { measure, tone } from '../../../tests/fixtures/signals';
import { forecastFades, forecastGain } from './forecast';
import { applyFades, FADE_SHAPES } from './steps/fade';

const RATE = 48_000;
const sound = tone(
  [
    { seconds: 3, levelDbfs: -18 },
    { seconds: 5, levelDbfs: -30 },
    { seconds: 3, levelDbfs: -15 },
  ],
  RATE,
  500,
);
const { readings, series } = measure([sound, sound], RATE);

test.each(FADE_SHAPES)('a programme with %s fades reads as it was forecast', (shape) => {
  const fades = { fadeIn: { frames: 2 * RATE, shape }, fadeOut: { frames: 1.5 * RATE, shape } };
  const gained = sound.map((x) => x * 10 ** (3 / 20));
  const faded = [gained.slice(), gained.slice()];
  applyFades(faded, sound.length, 0, sound.length, fades);
  const measured = measure(faded, RATE).readings;
  const format = { sampleRateHz: RATE, frames: sound.length };
  const forecast = forecastFades(
    forecastGain(readings, series.weightedPower, 3),
    series.weightedPower,
    3,
    format,
    fades,
  );
  const off = (a: number | null, b: number | null) => Math.abs((a ?? Number.NaN) - (b ?? Number.NaN));
  expect(off(forecast.integratedLufs, measured.integratedLufs)).toBeLessThanOrEqual(0.05);
  expect(off(forecast.loudnessRangeLu, measured.loudnessRangeLu)).toBeLessThanOrEqual(0.2);
  expect(off(forecast.maxShortTermLufs, measured.maxShortTermLufs)).toBeLessThanOrEqual(0.1);
});

test('without fades nothing is changed', () => {
  expect(forecastFades(readings, series.weightedPower, 0, { sampleRateHz: RATE, frames: 1 }, {})).toBe(readings);
});
