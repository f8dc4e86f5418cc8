import { LABEL_LANES, placeLabels } from './rule-geometry';

const label = (key: string, x: number, text = 'ten digits') => ({ key, x, text });

test('labels that would touch step aside of their mark, or to the next lane; those before keep their places', () => {
  const placed = placeLabels([label('a', 200), label('b', 230), label('c', 600), label('d', 260)], 800);
  expect(placed.map(({ lane, anchor }) => [lane, anchor])).toEqual([
    [0, 'middle'],
    [1, 'middle'],
    [0, 'middle'],
    [0, 'start'],
  ]);
});

test('five labels that crowd together stay on the slide, none over another', () => {
  const marks = [430, 425, 440, 450, 470];
  const placed = placeLabels(
    marks.map((x, i) => label(String(i), x)),
    718,
  );
  expect(Math.max(...placed.map(({ lane }) => lane))).toBeLessThan(LABEL_LANES);
  const spans = placed.map(({ x, anchor, lane }) => {
    const start = x - { start: 0, middle: 35, end: 70 }[anchor];
    return { lane, start, end: start + 70 };
  });
  for (const [i, a] of spans.entries()) {
    for (const b of spans.slice(i + 1)) {
      expect(a.lane === b.lane && a.start < b.end && b.start < a.end).toBe(false);
    }
  }
});

test('labels stay inside the rule', () => {
  const [left, middle, right] = placeLabels([label('a', 3), label('b', 400), label('c', 799)], 800);
  expect(left?.anchor).toBe('start');
  expect(middle?.anchor).toBe('middle');
  expect(right?.anchor).toBe('end');
});
