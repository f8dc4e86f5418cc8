/** The requirements that speak of levels: what they say of readings, and of nothing to read. */
import type { Readings } from '../../loudness/readings';
import type { Facts } from '../facts';
import { loudness, specLoudness } from './loudness';
import { loudnessRange } from './loudness-range';

const facts = (readings: Partial<Readings>) => ({ readings }) as Facts;
const integrated = { measure: 'integrated', target: -23, toleranceBelow: 0.5, toleranceAbove: 0.5 } as const;
const rms = { measure: 'rms', target: -20.5, toleranceBelow: 2.5, toleranceAbove: 2.5 } as const;
const uneven = { ...integrated, target: -16, toleranceBelow: 2, toleranceAbove: 1 } as const;

test.each([
  [integrated, -23.2, 'inside', 'on target at −23.2 LUFS', 0],
  [integrated, -22.5, 'inside', 'on target at −22.5 LUFS', 0],
  // The sentence counts from the target, the deviation from the nearer limit.
  [integrated, -20, 'over', '3.0 LU over', 2.5],
  [integrated, -25, 'under', '2.0 LU under', -1.5],
  [rms, -20.5, 'inside', 'on target at −20.5 dBFS RMS', 0],
  [rms, -24, 'under', '3.5 dB under', -1],
  [uneven, -18, 'inside', 'on target at −18.0 LUFS', 0],
  [uneven, -14.9, 'over', '1.1 LU over', 0.1],
])('%o: %d is %s', (asked, measured, state, phrase, deviation) => {
  const [item] = loudness.assess({ loudness: asked }, facts({ integratedLufs: measured, rmsDbfs: measured }));
  expect(item).toMatchObject({ state, phrase, reading: asked.measure === 'rms' ? 'rmsDbfs' : 'integratedLufs' });
  expect(item?.name).toBe(asked.measure === 'rms' ? 'RMS' : 'Integrated');
  expect(item?.deviation).toBeCloseTo(deviation, 9);
});

test('what is asked is told in words', () => {
  expect(loudness.assess({ loudness: integrated }, facts({ integratedLufs: -23 }))[0]?.required).toBe(
    '−23.0 ±0.5 LUFS',
  );
  expect(loudness.assess({ loudness: uneven }, facts({ integratedLufs: -16 }))[0]?.required).toBe(
    '−18.0 to −15.0 LUFS',
  );
  expect(loudness.describe({ loudness: uneven }).map(({ value }) => value)).toEqual([
    '−16.0 LUFS, 2.0 LU below to 1.0 LU above',
    'integrated',
  ]);
  expect(loudness.describe({ loudness: rms }).map(({ value }) => value)).toEqual(['−20.5 dBFS ±2.5 dB', 'RMS']);
  expect(loudness.describe({}).map(({ value }) => value)).toEqual(['', '']);
});

test('silence has no loudness, and is not on any target', () => {
  const silent = facts({ integratedLufs: null, rmsDbfs: null });
  expect(loudness.assess({ loudness: integrated }, silent)).toMatchObject([
    { state: 'not-assessed', phrase: 'no loudness to measure', why: 'silence, or shorter than 0.4 s' },
  ]);
  expect(loudness.assess({ loudness: rms }, silent)[0]?.why).toBe('there is only silence');
  expect(loudness.assess({}, silent)).toEqual([]);
});

test('a spec’s loudness is the reading that it speaks of', () => {
  const readings = { integratedLufs: -23, rmsDbfs: -20 } as Readings;
  expect(specLoudness(readings, { loudness: rms })).toBe(-20);
  expect(specLoudness(readings, { loudness: integrated })).toBe(-23);
  expect(specLoudness(readings, {})).toBe(-23);
});

test.each([
  [4, 'under', '2.0 LU under'],
  [6, 'inside', '6.0 LU'],
  [20, 'inside', '20.0 LU'],
  [23.5, 'over', '3.5 LU over'],
])('a range of 6 to 20 LU: %d is %s', (loudnessRangeLu, state, phrase) => {
  const [item] = loudnessRange.assess({ loudnessRange: { least: 6, most: 20 } }, facts({ loudnessRangeLu }));
  expect(item).toMatchObject({
    state,
    phrase: `loudness range ${phrase}`,
    required: '6.0 to 20.0 LU',
    reading: 'loudnessRangeLu',
  });
});

test('without a range to read there is nothing to judge, and where none is asked, nothing is said', () => {
  expect(
    loudnessRange.assess({ loudnessRange: { least: 6, most: null } }, facts({ loudnessRangeLu: null })),
  ).toMatchObject([{ state: 'not-assessed', why: 'silence, or shorter than 3 s' }]);
  expect(loudnessRange.assess({}, facts({ loudnessRangeLu: 3 }))).toEqual([]);
  expect(loudnessRange.describe({ loudnessRange: { least: null, most: 20 } })[0]?.value).toBe('20.0 LU or less');
  expect(loudnessRange.describe({})[0]?.value).toBe('');
});
