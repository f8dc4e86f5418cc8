/** One channel's state, and where its samples lie: the two blocks before the next one are kept in front. */
export const BLOCK: i32 = 16;
export const CONTEXT: i32 = 32;
export const TICKS_PER_SECOND: i64 = 100;
export const BINS_PER_SECOND: i64 = 10;

@unmanaged
export class Channel {
  // Where its arrays are.
  samples: usize;
  /** From a sample to the curvature around the one before it. */
  curvatureOffset: usize;
  ticks: usize;
  binPeaks: usize;
  binFrames: usize;
  binSquares: usize;
  waveMin: usize;
  waveMax: usize;
  runs: usize;
  // How many of each the last call completed; squares run a block ahead of peaks.
  tickCount: i32;
  binCount: i32;
  squareCount: i32;
  waveCount: i32;
  runCount: i32;
  /** Samples waiting for their block to fill, behind the context. */
  waiting: i32;
  rate: i64;
  /** Frame of the next block to take in. */
  frame: i64;
  // K-weighting: shelf with the high-pass gain in it, and high-pass.
  b0: f64;
  b1: f64;
  b2: f64;
  a1: f64;
  a2: f64;
  c1: f64;
  c2: f64;
  s1: f64;
  s2: f64;
  h1: f64;
  h2: f64;
  tick: i64;
  tickSum: f64;
  // Statistics.
  sum: f64;
  squares: f64;
  squareBin: i64;
  squareBinEnd: i64;
  peak: f32;
  peakFrame: f64;
  // Waveform.
  low: f32;
  high: f32;
  waveBlocks: i32;
  // Clipped runs.
  runTotal: i32;
  runValue: f32;
  runLength: i32;
  entryJump: f64;
  // True peak.
  /** Greatest magnitude and curvature of every block in view; the first two are those before the call's first block. */
  magnitudes: usize;
  curvatures: usize;
  /** Frame of the call's first block, and how many blocks are in view behind it. */
  callFrame: i64;
  callBlocks: i32;
  bin: i64;
  binEnd: i64;
  binPeak: f64;
  binFrame: f64;
}

/** core/units/frames gridFrame, in integers: round(index · rate / perSecond). */
export function gridFrame(index: i64, perSecond: i64, rate: i64): i64 {
  return (2 * index * rate + perSecond) / (2 * perSecond);
}

export function samplesAt(channel: Channel, index: i32): usize {
  return channel.samples + ((CONTEXT + index) << 2);
}
