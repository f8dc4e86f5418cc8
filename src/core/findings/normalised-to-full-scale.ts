import { LEAST_OVER_DB } from './beyond-full-scale';
import { advice, defineFinding } from './finding';

/** A file peaking within this of full scale was brought there on purpose. */
const FULL_SCALE_NEAR_DB = -0.005;

export const normalisedToFullScale = defineFinding({
  code: 'normalised-to-full-scale',
  criterion: 'the sample peak stands at full scale without clipping',
  look({ readings: { samplePeakDbfs, clippedRuns }, facts }) {
    if (samplePeakDbfs === null || samplePeakDbfs < FULL_SCALE_NEAR_DB || clippedRuns > 0) return null;
    if (facts.sampleFormat === 'float' && samplePeakDbfs > LEAST_OVER_DB) return null;
    return advice(
      'Sample peak at full scale without clipping: the file was normalised. Turning it down loses nothing.',
    );
  },
});
