import type { EdgeStep } from './edge-steps';
import type { PairFigures } from './pair-figures';

/** What a second look at chosen places of a measured programme has found. A figure is null where it can't be told. */
export interface Inspection {
  /** Where the sound stops short: a steep edge with nothing above it. */
  bandEdgeHz: number | null;
  /** By how much the sound falls at the edge of a lower rate than the file's own. */
  singleRateDropDb: number | null;
  /** Of a programme of two channels. */
  pair: PairFigures | null;
  edges: EdgeStep[];
  pause: Pause | null;
}

/** The quietest half-second that is not at an edge. */
export interface Pause {
  startFrame: number;
  frames: number;
  rmsDbfs: number;
  /** It is as even as noise is, in time and over frequency. */
  isNoise: boolean;
}
