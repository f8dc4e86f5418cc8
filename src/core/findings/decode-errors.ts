import { breach, count, defineFinding } from './finding';

export const decodeErrors = defineFinding({
  code: 'decode-errors',
  criterion: 'the decoder complained of damage',
  short: () => 'damaged',
  look({ facts: { decodeErrors: errors } }) {
    if (errors === 0) return null;
    return breach(
      `The file is damaged: ${count(errors, 'decoding error', 'decoding errors')}. What could be decoded was read; ask for the file again.`,
    );
  },
});
