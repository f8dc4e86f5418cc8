import { advice, defineFinding } from './finding';

export const sizeUnknown = defineFinding({
  code: 'size-unknown',
  criterion: 'the header states no length',
  look({ facts }) {
    if (!facts.sizeUnknown) return null;
    return advice('The header states no length, as after an interrupted recording; read to the end of the file.');
  },
});
