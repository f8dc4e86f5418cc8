import { CUE_SHEET, extendedHead, insertedIntoPadding, metadataBytes } from './blocks';

/** A FLAC's head: its signature, and blocks of a type and a length, filled with their type. */
function headOf(...blocks: [type: number, bytes: number][]): Uint8Array {
  return Uint8Array.from([
    ...new TextEncoder().encode('fLaC'),
    ...blocks.flatMap(([type, bytes], i) => [
      type | (i === blocks.length - 1 ? 0x80 : 0),
      (bytes >> 16) & 255,
      (bytes >> 8) & 255,
      bytes & 255,
      ...Array.from({ length: bytes }, () => (type === 1 ? 0 : type)),
    ]),
  ]);
}
const body = Uint8Array.from({ length: 50 }, () => 9);

test('a block takes the place of padding, and what is left of that stays padding', () => {
  const head = headOf([0, 34], [4, 20], [1, 200]);
  const patched = insertedIntoPadding(head, CUE_SHEET, body) as Uint8Array;
  expect(patched).toHaveLength(head.length);
  const expected = headOf([0, 34], [4, 20], [5, 50], [1, 146]);
  expected.fill(9, 4 + 38 + 24 + 4, 4 + 38 + 24 + 4 + 50);
  expect([...patched]).toEqual([...expected]);
  expect(metadataBytes(patched)).toBe(head.length);
});

test('padding of just its size is used up, and its flag of the last block stays', () => {
  const patched = insertedIntoPadding(headOf([0, 34], [1, 50]), CUE_SHEET, body) as Uint8Array;
  expect(patched[42]).toBe(CUE_SHEET | 0x80);
});

test.each([[10], [51], [53]])('padding of %i bytes is too little, or leaves no room for its own header', (bytes) =>
  expect(insertedIntoPadding(headOf([0, 34], [1, bytes]), CUE_SHEET, body)).toBeUndefined(),
);

test('without room the head grows, and the new block is the last', () => {
  const head = headOf([0, 34], [4, 20]);
  const extended = extendedHead(Uint8Array.from([...head, 1, 2, 3]), CUE_SHEET, body);
  expect(extended).toHaveLength(head.length + 54);
  expect([extended[42], extended[head.length]]).toEqual([4, CUE_SHEET | 0x80]);
  expect(metadataBytes(extended)).toBe(extended.length);
});
