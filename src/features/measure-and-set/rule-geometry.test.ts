import { placeLabels } from './rule-geometry';

const label = (key: string, x: number, text = 'ten digits') => ({ key, x, text });

test('labels that would touch go to the next lane; those before keep theirs', () => {
  const placed = placeLabels([label('a', 200), label('b', 230), label('c', 600), label('d', 210)], 800);
  expect(placed.map(({ lane }) => lane)).toEqual([0, 1, 0, 2]);
});

test('labels stay inside the rule', () => {
  const [left, middle, right] = placeLabels([label('a', 3), label('b', 400), label('c', 799)], 800);
  expect(left?.anchor).toBe('start');
  expect(middle?.anchor).toBe('middle');
  expect(right?.anchor).toBe('end');
});
