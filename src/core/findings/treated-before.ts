import { advice, defineFinding } from './finding';

export const treatedBefore = defineFinding({
  code: 'treated-before',
  criterion: 'a delivery of Opsimeter’s own, by its SHA-256 here and by its `bext` coding history anywhere',
  look({ facts }) {
    if (facts.treatedBefore === null) return null;
    return advice(
      `This is a delivery written by Opsimeter, already treated once (${facts.treatedBefore}). Work from its source, so that nothing is applied twice.`,
    );
  },
});
