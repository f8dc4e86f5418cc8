import { advice, defineFinding } from './finding';
import { isTooShort } from './source-facts';

export const silent = defineFinding({
  code: 'silent',
  criterion: 'every sample is 0, or the programme stays below the gate of −70 LUFS',
  short: () => 'silent',
  look({ readings: { samplePeakDbfs, integratedLufs }, facts }) {
    if (samplePeakDbfs === null) return advice('Digital silence throughout: there is no loudness to measure.');
    if (integratedLufs !== null || isTooShort(facts)) return null;
    return advice('Below the gate of −70 LUFS throughout: there is no integrated loudness.');
  },
});
