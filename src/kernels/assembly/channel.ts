/** One channel's state, and where its arrays lie. Frames count from the start of the segment that is measured. */
export const BLOCK: i32 = 16;
/** Samples kept in front of a piece: what an interpolator's window reaches back to. */
export const CONTEXT: i32 = 32;
export const TICKS_PER_SECOND: i64 = 100;
export const BINS_PER_SECOND: i64 = 10;

@unmanaged
export class Channel {
  /** The piece's first sample; the context stands before it. */
  samples: usize;
  /** Greatest magnitude and curvature of each block of the piece, behind those of the two blocks before. */
  magnitudes: usize;
  curvatures: usize;
  // The segment's results, each written on from where the last piece ended.
  ticks: usize;
  squares: usize;
  binPeaks: usize;
  binFrames: usize;
  waveMin: usize;
  waveMax: usize;
  runs: usize;
  rate: i64;
  /** Whether frames before the segment were shown: then they are its context, and not silence. */
  primed: bool;
  /** Frame of the next piece. */
  frame: i64;
  // K-weighting: the sample before, and the states of shelf and high-pass.
  x1: f32;
  h: f32;
  d: f32;
  g: f32;
  z: f32;
  exactH: f64;
  exactD: f64;
  exactG: f64;
  exactQ: f64;
  tickEnd: i64;
  tickCount: i32;
  tickEnergy: f64;
  tickSquares: f64;
  // Statistics.
  sum: f64;
  peak: f32;
  peakFrame: f64;
  // Waveform: a vector of extremes for the open bucket.
  waveBlocks: i32;
  waveCount: i32;
  // Clipped runs.
  runTotal: i32;
  runValue: f32;
  runLength: i32;
  entryJump: f64;
  /** The run that was open when the segment began, and the one that is when it ends; 0 frames where there is none. */
  headFrames: i32;
  headJump: f64;
  isHead: bool;
  tailFrames: i32;
  tailJump: f64;
  tailIsHead: bool;
  // True peak.
  binCount: i32;
  binEnd: i64;
  binPeak: f64;
  binFrame: f64;
  low0: f32;
  low1: f32;
  low2: f32;
  low3: f32;
  high0: f32;
  high1: f32;
  high2: f32;
  high3: f32;
}

/** core/units/frames gridFrame, in integers: round(index · rate / perSecond). */
export function gridFrame(index: i64, perSecond: i64, rate: i64): i64 {
  return (2 * index * rate + perSecond) / (2 * perSecond);
}
