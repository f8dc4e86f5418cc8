import type { Readings } from '../loudness/readings';

/** Of what never gets louder, rounding alone may make channels alike. */
const LEAST_COMPARED_DBFS = -50;

/** Whether a programme gets loud enough for its channels to be compared. */
export function isLoudEnough({ samplePeakDbfs }: Readings): boolean {
  return samplePeakDbfs !== null && samplePeakDbfs > LEAST_COMPARED_DBFS;
}
