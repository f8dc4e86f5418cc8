import { specById } from '@/core/spec/catalogue';
import { gaugeScale, zeroLufs } from './gauge-scale';

const rule = { lowDb: -42, highDb: 6, width: 700 };

test('the EBU scales go from -18 to +9 LU and from -36 to +18 LU, 0 LU at -23 LUFS (EBU Tech 3341, from memory)', () => {
  const r128 = specById('ebu-r128');
  expect(gaugeScale('ebu-9', r128, rule)).toEqual({ lowDb: -41, highDb: -14, width: 700 });
  expect(gaugeScale('ebu-18', r128, rule)).toEqual({ lowDb: -59, highDb: -5, width: 700 });
  expect(gaugeScale('absolute', r128, rule)).toBe(rule);
});

test('0 LU is the target of any other spec, and that of R 128 where one asks for no loudness', () => {
  const loudness = { measure: 'integrated', target: -16, toleranceBelow: 1, toleranceAbove: 1 } as const;
  expect(zeroLufs({ loudness })).toBe(-16);
  expect(zeroLufs({ loudness: { ...loudness, measure: 'rms' } })).toBe(-23);
  expect(zeroLufs({ loudness: undefined })).toBe(-23);
});
