import { advice, defineFinding } from './finding';

export const lossySource = defineFinding({
  code: 'lossy-source',
  criterion: 'the codec is lossy',
  short: () => 'lossy source',
  look({ facts: { bitDepth, bitRateBps, codec } }) {
    if (bitDepth !== null) return null;
    const rate = bitRateBps === null ? '' : ` at ${Math.round(bitRateBps / 1000)} kb/s`;
    return advice(
      `Lossy: ${codec}${rate}. What coding removed is lost, and encoding again removes more. Ask for the original.`,
    );
  },
});
