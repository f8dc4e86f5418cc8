import { measure, stereo, tone } from '../../../tests/fixtures/signals';
import { moveLevels } from '../treatment/forecast';
import { SPECS, specById } from './catalogue';
import { specSchema } from './spec';
import { judge } from './verdict';

const FORMAT = { sampleRateHz: 48_000, bitDepth: 24, channels: 2 };
/** A steady tone that reads −23.0 LUFS by all measures, with its peak at −23 dBTP. */
const { readings: steady } = measure(stereo(tone([{ seconds: 6, levelDbfs: -23 }], 48_000)), 48_000);

test('the catalogue has the stable ids, each a valid spec with a basis', () => {
  expect(SPECS.map(({ id }) => id)).toEqual([
    'ebu-r128',
    'ebu-r128-short',
    'atsc-a85',
    'arib-tr-b32',
    'op-59',
    'radio-europe',
    'radio-us',
    'podcast-stereo',
    'podcast-mono',
    'streaming-music',
    'streaming-video',
    'aes-td1008-speech',
    'aes-td1008-music',
    'audiobook-retail',
    'cd-master',
    'premaster',
    'archive',
  ]);
  for (const spec of SPECS) {
    expect(specSchema.parse(spec)).toEqual(spec);
    expect(spec.basis.document).toMatch(/from memory|common practice, no source/);
  }
});

/**
 * Delivery numbers. Published: EBU R 128 (2020) and s1, ATSC A/85, ARIB TR-B32, Free TV OP-59, AES TD1008 (2021), all
 * from memory. The others: common practice, no source.
 */
test.each([
  ['ebu-r128', -23, -1],
  ['ebu-r128-short', -23, -1],
  ['atsc-a85', -24, -2],
  ['arib-tr-b32', -24, -1],
  ['op-59', -24, -2],
  ['radio-europe', -23, -1],
  ['radio-us', -24, -2],
  ['podcast-stereo', -16, -1],
  ['podcast-mono', -19, -1],
  ['streaming-music', -14, -1],
  ['streaming-video', -14, -1],
  ['aes-td1008-speech', -18, -1],
  ['aes-td1008-music', -16, -1],
])('%s asks %f LUFS and %f dBTP', (id, target, ceiling) => {
  const spec = specById(id);
  expect(spec.loudness).toMatchObject({ measure: 'integrated', target });
  expect(spec.peak).toMatchObject({ measure: 'true', ceiling });
});

test.each([
  ['ebu-r128', 0.49, 'inside'],
  ['ebu-r128', 0.52, 'over'],
  ['ebu-r128', -0.52, 'under'],
  ['atsc-a85', 0.9, 'inside'],
  ['atsc-a85', 1.1, 'over'],
  ['arib-tr-b32', -2.1, 'under'],
])('%s after %f dB is %s', (id, gainDb, state) => {
  const verdict = judge(moveLevels(steady, gainDb), FORMAT, specById(id));
  expect(verdict.items[0]?.state).toBe(state);
  expect(verdict.inside).toBe(state === 'inside');
});

test('a deviation counts from the edge of the window, with its sign', () => {
  expect(judge(moveLevels(steady, 2), FORMAT, specById('ebu-r128')).items[0]?.deviation).toBeCloseTo(1.5, 1);
  expect(judge(moveLevels(steady, -2), FORMAT, specById('ebu-r128')).items[0]?.deviation).toBeCloseTo(-1.5, 1);
});

test('the short form limits short-term loudness as well (EBU R 128 s1, from memory)', () => {
  const burst = tone(
    [
      { seconds: 3, levelDbfs: -14 },
      { seconds: 60, levelDbfs: -24 },
    ],
    48_000,
  );
  const items = judge(measure(stereo(burst), 48_000).readings, FORMAT, specById('ebu-r128-short')).items;
  expect(items.find(({ name }) => name === 'Short-term max')).toMatchObject({ state: 'over' });
});

test('audiobook retail judges RMS, sample peak and noise floor (common practice, no source)', () => {
  const narration = tone(
    [
      { seconds: 1, levelDbfs: null },
      { seconds: 9, levelDbfs: -17 },
    ],
    44_100,
  );
  const { readings } = measure([narration], 44_100);
  const verdict = judge(readings, { sampleRateHz: 44_100, bitDepth: 24, channels: 1 }, specById('audiobook-retail'));
  expect(verdict.items.map(({ name, state }) => [name, state])).toEqual([
    ['RMS', 'inside'],
    ['Sample peak', 'inside'],
    ['Noise floor', 'inside'],
    ['Channels', 'inside'],
  ]);
  expect(verdict.notJudged).toHaveLength(1);
  const hot = judge(moveLevels(readings, 15), { ...FORMAT, channels: 1 }, specById('audiobook-retail'));
  expect(hot.items.map(({ state }) => state)).toEqual(['over', 'over', 'inside', 'inside']);
});

test('a CD master is 16-bit, 44.1 kHz and stereo', () => {
  const verdict = judge(steady, FORMAT, specById('cd-master'));
  expect(verdict.items.filter(({ inside }) => !inside).map(({ name, state }) => [name, state])).toEqual([
    ['Sample rate', 'over'],
    ['Bit depth', 'over'],
  ]);
  expect(judge(steady, { sampleRateHz: 44_100, bitDepth: 16, channels: 2 }, specById('cd-master')).inside).toBe(true);
});

test('a mono file is not judged by the stereo podcast’s −16', () => {
  const verdict = judge(moveLevels(steady, 7), { ...FORMAT, channels: 1 }, specById('podcast-stereo'));
  expect(verdict.items.find(({ name }) => name === 'Channels')).toMatchObject({ inside: false, required: '2' });
});

test('silence has no loudness to be inside with, but breaks no ceiling', () => {
  const { readings } = measure(stereo(new Float32Array(48_000)), 48_000);
  const verdict = judge(readings, FORMAT, specById('ebu-r128'));
  expect(verdict.inside).toBe(false);
  expect(verdict.items.map(({ state }) => state)).toEqual(['not-measured', 'inside']);
});

test('invalid samples of a file are a miss of their own', () => {
  expect(judge(steady, FORMAT, specById('ebu-r128'), 3)).toMatchObject({ inside: false });
});

test('an unknown id is refused with those that there are', () => {
  expect(() => specById('r128')).toThrow(/no spec "r128".*ebu-r128/);
});
