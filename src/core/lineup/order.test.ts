import fc from 'fast-check';
import { playOrder } from './order';

test('each begins where the one before has ended, and its gap; the gap of the last counts for nothing', () => {
  expect(playOrder([100, 50, 20], [10, -5, 999])).toEqual({ starts: [0, 110, 155], end: 175 });
  expect(playOrder([], [])).toEqual({ starts: [], end: 0 });
});

test('a programme that is shorter than its overlaps is refused; one that is as long is not', () => {
  expect(() => playOrder([100, 9, 100], [-5, -5])).toThrow('programme 2 is shorter than its overlaps');
  expect(playOrder([100, 10, 100], [-5, -5])).toEqual({ starts: [0, 95, 100], end: 200 });
  expect(() => playOrder([4, 100], [-5])).toThrow('programme 1');
});

test('whatever the lengths and gaps: no frame is lost, none is heard by more than two programmes', () => {
  const members = fc.array(
    fc.record({ length: fc.integer({ min: 1, max: 5000 }), gap: fc.integer({ min: -2000, max: 3000 }) }),
    {
      minLength: 1,
      maxLength: 12,
    },
  );
  fc.assert(
    fc.property(members, (list) => {
      const lengths = list.map(({ length }) => length);
      // No overlap takes more than half of either of its programmes.
      const gaps = list.map(({ gap, length }, i) =>
        Math.max(gap, -Math.floor(Math.min(length, lengths[i + 1] ?? 0) / 2)),
      );
      const { starts, end } = playOrder(lengths, gaps);
      const ends = starts.map((start, i) => start + (lengths[i] as number));
      const sum = lengths.reduce((a, b) => a + b, 0) + gaps.slice(0, -1).reduce((a, b) => a + b, 0);
      expect(end).toBe(sum);
      expect(Math.max(...ends)).toBe(end);
      for (let i = 2; i < starts.length; i++) expect(starts[i]).toBeGreaterThanOrEqual(ends[i - 2] as number);
    }),
  );
});
