import fc from 'fast-check';
import type { SampleEncoding } from '@/core/units/sample-encoding';
import { UsedBits } from './used-bits';

const WIDTHS = { s16: 2, s24: 3, s32: 4 } as const;

/** By the plainest way there is: every sample, bit by bit. */
function counted(bytes: Uint8Array, width: number, isBigEndian: boolean): number {
  let most = 0;
  for (let at = 0; at + width <= bytes.length; at += width) {
    let value = 0n;
    for (let i = 0; i < width; i++)
      value = (value << 8n) | BigInt(bytes[at + (isBigEndian ? i : width - 1 - i)] ?? Number.NaN);
    for (let bit = 0; bit < 8 * width; bit++) {
      if ((value >> BigInt(bit)) & 1n) {
        most = Math.max(most, 8 * width - bit);
        break;
      }
    }
  }
  return most;
}

test('as many bits as a count of every sample finds, however the bytes are cut', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...(Object.keys(WIDTHS) as (keyof typeof WIDTHS)[])),
      fc.boolean(),
      fc.integer({ min: 0, max: 24 }),
      fc.array(fc.integer({ min: 0, max: 0xffffffff }), { maxLength: 60 }),
      fc.integer({ min: 0, max: 60 }),
      (type, isBigEndian, zeroBits, values, cut) => {
        const width = WIDTHS[type];
        const bytes = new Uint8Array(values.length * width);
        values.forEach((value, i) => {
          const sample = (BigInt(value) >> BigInt(zeroBits)) << BigInt(zeroBits);
          for (let b = 0; b < width; b++) {
            bytes[i * width + (isBigEndian ? width - 1 - b : b)] = Number((sample >> BigInt(8 * b)) & 255n);
          }
        });
        const encoding: SampleEncoding = { type, isBigEndian };
        const used = new UsedBits(encoding);
        const at = Math.min(cut, values.length) * width;
        used.add(bytes.slice(0, at));
        used.add(bytes.slice(at));
        expect(used.count).toBe(counted(bytes, width, isBigEndian));
      },
    ),
    { numRuns: 500 },
  );
});

test('silence uses none', () => {
  const used = new UsedBits({ type: 's24', isBigEndian: false });
  used.add(new Uint8Array(1200));
  expect(used.count).toBe(0);
});
