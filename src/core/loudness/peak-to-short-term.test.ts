import { lufsToPower } from './gating';
import { leastOf, peakToShortTerm } from './peak-to-short-term';

/** So many 100 ms at −20 LUFS. */
const power = (bins: number) => ({ values: new Float64Array(bins).fill(lufsToPower(-20)), gainDb: 0 });

test('the peak of the last 3 s stands over their loudness, and over nothing before', () => {
  const peaks = new Float32Array(80).fill(0.1);
  peaks[10] = 1;
  const curve = peakToShortTerm(peaks, power(80), 1);
  for (let bin = 0; bin < 29; bin++) expect(curve[bin]).toBeNaN();
  // The peak at bin 10 is within the 3 s that end with bins 29 to 39.
  for (let bin = 29; bin < 40; bin++) expect(curve[bin]).toBeCloseTo(20, 4);
  for (let bin = 40; bin < 80; bin++) expect(curve[bin]).toBeCloseTo(0, 4);
  expect(leastOf(curve, 1)).toEqual({ value: curve[40], endSeconds: 4.1 });
});

test('a gain beside the loudness, wider columns, silence, and a programme too short', () => {
  const peaks = new Float32Array(40).fill(0.5);
  const gained = peakToShortTerm(peaks, { ...power(80), gainDb: 6 }, 2);
  expect(gained[13]).toBeNaN();
  expect(gained[14]).toBeCloseTo(20 * Math.log10(0.5) + 14, 4);
  expect(peakToShortTerm(new Float32Array(40), { values: new Float64Array(40), gainDb: 0 }, 1)[35]).toBeNaN();
  expect(leastOf(peakToShortTerm(peaks.subarray(0, 20), power(20), 1), 1)).toBeNull();
});
