import { shortTermDistribution } from './distribution';
import { lufsToPower } from './gating';

const powers = (...lufs: number[]) => lufs.map(lufsToPower);

test('values are counted in steps of 1 LU from the lowest that occurs', () => {
  expect(shortTermDistribution(powers(-23.5, -23.1, -21.9, -20.2))).toEqual({ fromLufs: -24, counts: [2, 0, 1, 1] });
});

test('what lies under the gate of −70 LUFS does not count; of nothing but that there is no distribution', () => {
  expect(shortTermDistribution(powers(-75, -30.5))).toEqual({ fromLufs: -31, counts: [1] });
  expect(shortTermDistribution([0, lufsToPower(-80)])).toBeNull();
});
