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

test('what never came is named, as far as it is held', () => {
  const held = new PreRoll(1, 100);
  held.add([new Float32Array(60)], 60);
  held.addGap(40, 10);
  expect(held.gapsInLast(60)).toEqual([{ beforeEnd: 40, frames: 10 }]);
  // Its last five frames; of its first ones nobody asks.
  expect(held.gapsInLast(35)).toEqual([{ beforeEnd: 35, frames: 5 }]);
  expect(held.gapsInLast(30)).toEqual([]);
  held.add([new Float32Array(65)], 65);
  // One that is not over yet.
  held.addGap(5, 9);
  expect(held.gapsInLast(500)).toEqual([
    { beforeEnd: 100, frames: 5 },
    { beforeEnd: 5, frames: 9 },
  ]);
});

test('what is forgotten does not come back', () => {
  const held = new PreRoll(1, 10);
  held.add([new Float32Array(8).fill(1)], 8);
  held.addGap(2, 1);
  held.clear();
  expect(held.last(5)[0]).toHaveLength(0);
  expect(held.gapsInLast(5)).toEqual([]);
  held.add([new Float32Array(2).fill(2)], 2);
  expect([...(held.last(5)[0] ?? [])]).toEqual([2, 2]);
});
