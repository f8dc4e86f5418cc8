import {
  assessCheck,
  assessChoice,
  assessNumber,
  describeRange,
  formatDeviation,
  notAssessed,
  rangeField,
} from './requirement';

const named = { key: 'peak', name: 'True peak', required: '≤ −1.0 dBTP' };

test.each([
  // A level may stand a thousandth of a dB beyond: above the rounding of 24 bits, below what anybody reads.
  [-1, 'inside', 0],
  [-0.9991, 'inside', 0],
  [-0.9989, 'over', 0.0011],
  [2, 'over', 3],
])('at most −1: %d dBTP is %s', (measured, state, deviation) => {
  const item = assessNumber(named, measured, 'dBTP', { most: -1 });
  expect(item).toMatchObject({ state, inside: state === 'inside', measured, unit: 'dBTP', why: null });
  expect(item.deviation).toBeCloseTo(deviation, 9);
});

test.each([
  [0.5, 'inside', 0, '0.50 s', 'head 0.5 s'],
  [0.499, 'under', -0.001, '0.50 s', 'head 0.0 s under'],
  [0.2, 'under', -0.3, '0.20 s', 'head 0.3 s under'],
  [1, 'inside', 0, '1.00 s', 'head 1.0 s'],
  [1.4, 'over', 0.4, '1.40 s', 'head 0.4 s over'],
])('from 0.5 to 1 s: %d s is %s, without any slack', (measured, state, deviation, found, phrase) => {
  const item = assessNumber({ key: 'head', name: 'Head', required: '' }, measured, 's', { least: 0.5, most: 1 });
  expect(item).toMatchObject({ state, found, phrase });
  expect(item.deviation).toBeCloseTo(deviation, 9);
});

test('an end that is open limits nothing, and a short name stands in the sentence', () => {
  expect(assessNumber({ ...named, short: 'peak' }, 99, 'dBTP', { least: -3 }).phrase).toBe('peak 99.0 dBTP');
  expect(assessNumber({ ...named, short: 'peak' }, -99, 'dBTP', { least: null, most: -1 }).inside).toBe(true);
  expect(assessNumber(named, -4.5, 'dBTP', { least: -3 }).phrase).toBe('true peak 1.5 dB under');
  expect(assessNumber({ ...named, short: 'peak' }, 0, 'dBTP', { most: -1 })).not.toHaveProperty('short');
});

test.each([
  [-2.35, 'dBTP', '2.4 dB'],
  [0.5, 'LUFS', '0.5 LU'],
  [0.5, 'LU', '0.5 LU'],
  [1, 'dB', '1.0 dB'],
  [1, 'dBFS', '1.0 dB'],
  // It never reads as nothing.
  [0.049, 'LUFS', '0.049 LU'],
  [0.05, 'LUFS', '0.1 LU'],
  [-3900, 'Hz', '3.9 kHz'],
  [8, 'bit', '8 bit'],
  [2, 'channels', '2'],
  [7, 'samples', '7 samples'],
  [64, 'kbit/s', '64 kbit/s'],
  [0.25, 's', '0.3 s'],
] as const)('a miss by %d %s reads as %s', (deviation, unit, text) =>
  expect(formatDeviation(deviation, unit)).toBe(text),
);

test('what is so or not has no number', () => {
  const own = { key: 'file', name: 'File', required: 'WAV' };
  expect(assessCheck(own, 'WAV', true)).toEqual({
    ...own,
    ...{
      measured: null,
      unit: null,
      found: 'WAV',
      state: 'inside',
      inside: true,
      deviation: 0,
      phrase: 'file WAV',
      why: null,
    },
  });
  expect(assessCheck(own, 'MP3', false)).toMatchObject({ state: 'missed', inside: false, phrase: 'file must be WAV' });
});

test.each([
  [44_100, 'inside', 0, 'sample rate 44.1 kHz'],
  [48_000, 'inside', 0, 'sample rate 48 kHz'],
  [96_000, 'over', 48_000, 'sample rate must be 44.1 kHz or 48 kHz'],
  [32_000, 'under', -12_100, 'sample rate must be 44.1 kHz or 48 kHz'],
  [46_000, 'missed', 1900, 'sample rate must be 44.1 kHz or 48 kHz'],
  [47_000, 'missed', -1000, 'sample rate must be 44.1 kHz or 48 kHz'],
])('one of some: %d is %s', (measured, state, deviation, phrase) => {
  const item = assessChoice({ key: 'rate', name: 'Sample rate' }, measured, 'Hz', [44_100, 48_000]);
  expect(item).toMatchObject({
    state,
    deviation,
    phrase,
    inside: state === 'inside',
    required: '44.1 kHz or 48 kHz',
    measured,
  });
});

test('what cannot be told is never met, and says why', () => {
  expect(notAssessed(named, 'there is only silence')).toMatchObject({
    ...{ state: 'not-assessed', inside: false, deviation: 0, measured: null, unit: null, found: 'not assessed' },
    ...{ phrase: 'true peak not assessed: there is only silence', why: 'there is only silence' },
  });
});

test('ranges are described by the ends that they have', () => {
  expect(describeRange({ least: 0.5, most: 1 }, 's')).toBe('0.5 to 1.0 s');
  expect(describeRange({ least: 0.5, most: null }, 's')).toBe('0.5 s or more');
  expect(describeRange({ least: null, most: 20 }, 'LU')).toBe('20.0 LU or less');
  expect(rangeField.safeParse({ least: 2, most: 2 }).success).toBe(true);
  expect(rangeField.safeParse({ least: null, most: 2 }).success).toBe(true);
  expect(rangeField.safeParse({ least: 2, most: null }).success).toBe(true);
  expect(rangeField.safeParse({ least: 3, most: 2 }).error?.issues[0]?.message).toBe('The least is above the most');
  expect(rangeField.safeParse({ least: -1, most: 2 }).success).toBe(false);
});
