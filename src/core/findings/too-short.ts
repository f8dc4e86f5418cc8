import { advice, defineFinding } from './finding';
import { isTooShort } from './source-facts';

export const tooShort = defineFinding({
  code: 'too-short',
  criterion: 'the programme is shorter than 400 ms',
  short: () => 'under 400 ms',
  look({ readings, facts }) {
    if (readings.samplePeakDbfs === null || !isTooShort(facts)) return null;
    return advice('Shorter than 400 ms, the gating block: integrated loudness is not defined.');
  },
});
