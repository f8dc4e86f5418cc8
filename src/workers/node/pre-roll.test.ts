import fc from 'fast-check';
import { PreRoll } from './pre-roll';

test('whatever lengths a line comes in, the last of it is held', () => {
  const lengths = fc.array(fc.integer({ min: 0, max: 40 }), { maxLength: 30 });
  fc.assert(
    fc.property(lengths, fc.integer({ min: 1, max: 25 }), fc.integer({ min: 0, max: 40 }), (parts, room, asked) => {
      const held = new PreRoll(2, room);
      const all: number[] = [];
      for (const length of parts) {
        const part = Float32Array.from({ length }, (_, i) => all.length + i + 1);
        all.push(...part);
        held.add([part, part.map((x) => -x)], length);
      }
      const [left, right] = held.last(asked) as [Float32Array, Float32Array];
      const count = Math.min(asked, room, all.length);
      expect([...left]).toEqual(count === 0 ? [] : all.slice(-count));
      expect([...right]).toEqual([...left].map((x) => -x));
    }),
  );
});

test('what is forgotten does not come back', () => {
  const held = new PreRoll(1, 10);
  held.add([new Float32Array(8).fill(1)], 8);
  held.clear();
  expect(held.last(5)[0]).toHaveLength(0);
  held.add([new Float32Array(2).fill(2)], 2);
  expect([...(held.last(5)[0] ?? [])]).toEqual([2, 2]);
});
