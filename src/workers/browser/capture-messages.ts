/** What the worklet that hears an input is called, and what it tells. */
export const CAPTURE_NAME = 'opsimeter-capture';

/** Frames of an input, in the order in which they came. */
export interface CapturedFrames {
  /** Of the first, since it began. */
  startFrame: number;
  /** Interleaved. */
  samples: Float32Array<ArrayBuffer>;
}
