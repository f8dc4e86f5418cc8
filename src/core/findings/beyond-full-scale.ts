import { formatLevel } from '../units/format';
import { advice, defineFinding } from './finding';

/** Less than half of what is shown is no matter. */
export const LEAST_OVER_DB = 0.0005;

export const beyondFullScale = defineFinding({
  code: 'beyond-full-scale',
  criterion: 'float samples go beyond full scale',
  look({ readings: { samplePeakDbfs }, facts }) {
    if (samplePeakDbfs === null || facts.sampleFormat !== 'float' || samplePeakDbfs <= LEAST_OVER_DB) return null;
    return advice(
      `Float samples reach ${formatLevel(samplePeakDbfs, 'dBFS')}, unclipped. Turn the file down before it is written as integers.`,
    );
  },
});
