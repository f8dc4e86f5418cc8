import { measure, tone } from '../../../tests/fixtures/signals';
import { specById } from '../spec/catalogue';
import { limitDistances } from './nearest-limit';

const { readings } = measure([tone([{ seconds: 5, levelDbfs: -20 }], 48_000)], 48_000);
const at = { ...readings, integratedLufs: -26, truePeakDbtp: -2.6, maxShortTermLufs: -20 };

test('the nearest comes first, each with the gain that is left', () => {
  const [first, second] = limitDistances(at, specById('ebu-r128'), false);
  expect(first?.limit).toBe('ceiling');
  expect(first?.leftDb).toBeCloseTo(1.6, 9);
  expect(second).toEqual({ limit: 'target', leftDb: 3 });
});

test('with a limiter no peak is in the way; a short-term limit is', () => {
  const limits = limitDistances(at, specById('ebu-r128-short'), true).map(({ limit }) => limit);
  expect(limits).toEqual(['short-term', 'target']);
});

test('what is passed already is told as negative, and silence has no limits', () => {
  expect(limitDistances({ ...at, truePeakDbtp: 0.4 }, specById('ebu-r128'), false)[0]?.leftDb).toBeCloseTo(-1.4, 9);
  const silent = { ...at, integratedLufs: null, truePeakDbtp: null, samplePeakDbfs: null };
  expect(limitDistances(silent, specById('ebu-r128'), false)).toEqual([]);
});
