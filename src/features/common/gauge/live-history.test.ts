import { HISTORY_BINS, NO_HISTORY, withBin } from './live-history';

test('the last ten seconds are kept, and of the momentary loudness the last two', () => {
  let history = NO_HISTORY;
  for (let bin = 0; bin < 130; bin++) {
    history = withBin(history, { momentaryLufs: -bin, shortTermLufs: bin < 29 ? null : -bin, reductionDb: bin / 10 });
    expect(history.reductionDb).toHaveLength(Math.min(bin + 1, HISTORY_BINS));
  }
  expect(history.momentaryLufs).toEqual(Array.from({ length: 20 }, (_, i) => -110 - i));
  expect(history.shortTermLufs[0]).toBe(-30);
  expect(history.reductionDb[0]).toBe(3);
  expect(history.reductionDb.at(-1)).toBe(12.9);
  expect(NO_HISTORY.reductionDb).toEqual([]);
});
