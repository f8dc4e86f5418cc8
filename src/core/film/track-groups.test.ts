import fc from 'fast-check';
import { proposedTrackGroups } from './track-groups';

/** Tracks of these channels, at 48 kHz unless it is stated. */
const tracksOf = (...all: (number | [channels: number, sampleRateHz: number, language?: string])[]) =>
  all.map((own, i) => {
    const [channels, sampleRateHz, language = null] = typeof own === 'number' ? [own, 48_000] : own;
    return { number: i + 1, channels, sampleRateHz, language };
  });
const mono = (count: number) => Array.from({ length: count }, () => 1);

test.each([
  [mono(1), [[1]]],
  [mono(2), [[1, 2]]],
  [mono(3), [[1, 2], [3]]],
  [
    mono(4),
    [
      [1, 2],
      [3, 4],
    ],
  ],
  [mono(6), [[1, 2, 3, 4, 5, 6]]],
  [
    mono(8),
    [
      [1, 2],
      [3, 4, 5, 6, 7, 8],
    ],
  ],
  [
    [2, 6],
    [[1], [2]],
  ],
  [
    [2, 1, 1, 6],
    [[1], [2, 3], [4]],
  ],
])('of channels %p', (channels, groups) => {
  expect(proposedTrackGroups(tracksOf(...channels))).toEqual(groups);
});

test('tracks of different rates or languages never stand together', () => {
  const spoken = tracksOf([1, 48_000, 'eng'], [1, 48_000, 'nor'], [1, 48_000, 'nor']);
  expect(proposedTrackGroups(spoken)).toEqual([[1], [2, 3]]);
  expect(proposedTrackGroups(tracksOf(1, [1, 44_100], [1, 44_100]))).toEqual([[1], [2, 3]]);
});

test('each track is in one group, in order', () => {
  fc.assert(
    fc.property(fc.array(fc.constantFrom(1, 1, 1, 2, 6), { maxLength: 40 }), (channels) => {
      const groups = proposedTrackGroups(tracksOf(...channels));
      expect(groups.flat()).toEqual(channels.map((_, i) => i + 1));
    }),
  );
});
