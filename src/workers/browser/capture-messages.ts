/** What the worklet that hears inputs is called, what it is made with and what it tells. */
export const CAPTURE_NAME = 'opsimeter-capture';

export interface CaptureOptions {
  /** Which channels of which of its inputs are heard, in the order in which they are handed over. */
  taken: { input: number; channel: number }[];
}

/** Frames of an input, in the order in which they came. */
export interface CapturedFrames {
  /** Of the first, since it began. */
  startFrame: number;
  /** Interleaved. */
  samples: Float32Array<ArrayBuffer>;
}

/** As a worklet counts them. */
export interface WorkletFrames extends CapturedFrames {
  /** Of the first, as its audio context counts. */
  contextFrame: number;
}
