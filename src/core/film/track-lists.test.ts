import fc from 'fast-check';
import { parseTrackLists, trackListText } from './track-lists';

test.each([
  ['2', [[2]]],
  ['1+2', [[1, 2]]],
  ['2+1', [[2, 1]]],
  [
    '1 + 2, 3-8',
    [
      [1, 2],
      [3, 4, 5, 6, 7, 8],
    ],
  ],
  ['3-3', [[3]]],
])('"%s"', (text, lists) => expect(parseTrackLists(text)).toEqual(lists));

test.each(['', '0', '1+1', '8-3', 'x', '1+', '1,', '1+2,2', '1.5', '-1', '1000'])('"%s" names none', (text) =>
  expect(parseTrackLists(text)).toBeUndefined(),
);

test('what is written is read again', () => {
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.integer({ min: 1, max: 64 }), { minLength: 1, maxLength: 24 }),
      fc.boolean(),
      (numbers, isSorted) => {
        const list = isSorted ? numbers.toSorted((a, b) => a - b) : numbers;
        expect(parseTrackLists(trackListText(list))).toEqual([list]);
      },
    ),
  );
});
