import { measure, tone } from '../../../tests/fixtures/signals';
import { specById } from './catalogue';
import { playbackOf } from './playback';

const { readings } = measure([tone([{ seconds: 5, levelDbfs: -20 }], 48_000)], 48_000);

test('what is too soft is turned up, and its peak with it', () => {
  const spec = specById('streaming-music');
  const playback = playbackOf(readings, spec);
  expect(playback?.gainDb).toBeCloseTo(-14 - (readings.integratedLufs ?? Number.NaN), 9);
  expect(playback?.truePeakDbtp).toBeCloseTo(
    (readings.truePeakDbtp ?? Number.NaN) + (playback?.gainDb ?? Number.NaN),
    9,
  );
  expect(playback?.excessDb).toBe(0);
});

test('a peak that would then stand over the ceiling is told by how much', () => {
  const peaky = { ...readings, truePeakDbtp: -4, integratedLufs: -20 };
  expect(playbackOf(peaky, specById('streaming-music'))).toMatchObject({ gainDb: 6, truePeakDbtp: 2, excessDb: 3 });
});

test('silence, and specs without a loudness, have none', () => {
  expect(playbackOf({ ...readings, integratedLufs: null }, specById('ebu-r128'))).toBeNull();
  expect(playbackOf(readings, specById('premaster'))).toBeNull();
  expect(playbackOf(readings, specById('audiobook-retail'))).toBeNull();
});
