import { breach, count, defineFinding } from './finding';

export const nonFiniteSamples = defineFinding({
  code: 'non-finite-samples',
  criterion: 'samples are not a number, or infinite',
  short: () => 'invalid samples',
  look({ facts }) {
    if (facts.nonFiniteSamples === 0) return null;
    const samples = count(facts.nonFiniteSamples, 'sample is', 'samples are');
    return breach(`${samples} not a number, or infinite; read as silence. Export the file again.`);
  },
});
