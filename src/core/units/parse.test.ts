import { parseGap, parseNumber, parseTime } from './parse';

test.each([
  ['4.6', 4.6],
  ['−3,2 dB', -3.2],
  ['+1 dB', 1],
  [' - .5', -0.5],
  ['3.', 3],
])('%s is a number of decibels', (text, value) => expect(parseNumber(text, 'dB')).toBe(value));

test.each(['', 'loud', '1.2.3', '--1', '1e3', 'dB'])('%s is none', (text) =>
  expect(parseNumber(text, 'dB')).toBeUndefined(),
);

test.each([
  ['1:02:03.5', 3723.5 * 48_000],
  ['2:03,25', 123.25 * 48_000],
  ['83.5', 83.5 * 48_000],
  ['83.5 s', 83.5 * 48_000],
  ['0', 0],
  ['4410 f', 4410],
  ['1 frame', 1],
  ['90:00', 5400 * 48_000],
])('%s is a time', (text, frame) => expect(parseTime(text, 48_000)).toBe(frame));

test.each(['', 'soon', '1:75', '1:2:3:4', '-1', '1.5 f'])('%s is no time', (text) =>
  expect(parseTime(text, 48_000)).toBeUndefined(),
);

test.each([
  ['1.5', 1.5],
  ['−2 s', -2],
  ['0,0004', 0],
  ['4410 f', 0.1],
  ['-22050 frames', -0.5],
  ['150/75', 2],
  ['−1 / 75', -1 / 75],
])('%s is a gap', (text, seconds) => expect(parseGap(text, 44_100)).toBeCloseTo(seconds, 12));

test.each(['', 'long', '1.5 f', '1/76', '2.5/75', '/75', 'f'])('%s is no gap', (text) =>
  expect(parseGap(text, 44_100)).toBeUndefined(),
);
