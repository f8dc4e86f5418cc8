import { advice, defineFinding } from './finding';

const LEAST_UNUSED_BITS = 8;

export const unusedBits = defineFinding({
  code: 'unused-bits',
  criterion: 'the lowest 8 bits or more of every integer sample are zero',
  look({ facts: { usedBits, bitDepth } }) {
    if (usedBits === null || bitDepth === null || usedBits > bitDepth - LEAST_UNUSED_BITS) return null;
    return advice(
      `A ${bitDepth}-bit file whose lowest ${bitDepth - usedBits} bits are never set: it holds ${usedBits}-bit sound. Is there a mix of higher resolution?`,
    );
  },
});
