import { Growable } from './growable';

test('values keep their order however many come, one by one or together', () => {
  const values = new Growable(Float64Array);
  const expected: number[] = [];
  for (let i = 0; i < 3000; i++) {
    values.push(i / 3);
    expected.push(i / 3);
  }
  const more = Array.from({ length: 10_000 }, (_, i) => -i);
  values.append(more);
  expect(values.length).toBe(13_000);
  expect([...values.view()]).toEqual([...expected, ...more]);
});

test('values are kept as the array keeps them', () => {
  const values = new Growable(Uint16Array);
  values.push(65_535);
  values.push(65_536);
  expect([...values.view()]).toEqual([65_535, 0]);
});
