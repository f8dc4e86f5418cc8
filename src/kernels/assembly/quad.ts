/**
 * Four channels side by side, of one programme or of segments that are measured together: frame by frame, each channel's
 * sample in its lane of a vector. Frames count from the start of the segments; their ticks and bins fall together.
 */
export const LANES: i32 = 4;
/** Log2 of the bytes of a frame, and of the entry that a block has in a table. */
export const FRAME_SHIFT: i32 = 4;
export const BLOCK: i32 = 16;
/**
 * Frames kept in front of a piece: what stands around a peak that was found at the end of the piece before, and could not be read
 * until what follows was in view.
 */
export const CONTEXT: i32 = 352;
export const TICKS_PER_SECOND: i64 = 100;
export const BINS_PER_SECOND: i64 = 10;

@unmanaged
export class Quad {
  // K-weighting: the states of shelf and high-pass.
  h: v128;
  d: v128;
  g: v128;
  z: v128;
  // The same in f64, for the first two lanes and then for the others.
  exactH: v128;
  exactH2: v128;
  exactD: v128;
  exactD2: v128;
  exactG: v128;
  exactG2: v128;
  exactQ: v128;
  exactQ2: v128;
  // Sums of the open tick and of all samples, likewise.
  energy: v128;
  energy2: v128;
  squares: v128;
  squares2: v128;
  sum: v128;
  sum2: v128;
  /** Greatest sample so far. */
  peaks: v128;
  /** Extremes of the open waveform bucket. */
  low: v128;
  high: v128;
  /** True peak of the open bin, rounded to f32. */
  binPeaks: v128;
  /** Greatest sample of the open bin. */
  binSamples: v128;
  /** The piece's first frame; the context stands before it. */
  samples: usize;
  /** Greatest magnitude and curvature of each block of the piece, behind those of the two blocks before. */
  magnitudes: usize;
  curvatures: usize;
  /** Least and greatest sample of each block of the piece, in turn. */
  extremes: usize;
  lanes: usize;
  rate: i64;
  /** Frame of the next piece. */
  frame: i64;
  tickEnd: i64;
  tickCount: i32;
  binCount: i32;
  binEnd: i64;
  /** Lanes in which a run at full scale is open. */
  openRuns: i32;
}

/** One channel of a quad, and where its results go: each is written on from where the last piece ended. */
@unmanaged
export class Lane {
  quad: Quad;
  index: i32;
  ticks: usize;
  squares: usize;
  binPeaks: usize;
  binFrames: usize;
  waveMin: usize;
  waveMax: usize;
  runs: usize;
  /** Whether frames before the segment were shown: then they are its context, and not silence. */
  primed: bool;
  peakFrame: f64;
  // Waveform: blocks in the open bucket.
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
  // True peak of the open bin: what the search has found, its frame, and what was read there (less than 0 until then).
  binPeak: f64;
  binFrame: f64;
  binReading: f64;
  /** Where the greatest sample of the open bin stands first. */
  binSampleFrame: f64;
  /** A bin that is closed but for the reading of what was found in it: where its results go, or 0. */
  waitingPeak: usize;
  waitingFrame: usize;
  waitingFound: f64;
  waitingSample: f32;
  waitingSampleFrame: f64;
}

@inline
export function laneOf(quad: Quad, index: i32): Lane {
  return changetype<Lane>(quad.lanes + index * offsetof<Lane>());
}

/** Where a lane's part of the vector at `vectors` stands. */
@inline
export function inLane(vectors: usize, index: i32): usize {
  return vectors + (index << 2);
}

/** core/units/frames gridFrame, in integers: round(index · rate / perSecond). */
export function gridFrame(index: i64, perSecond: i64, rate: i64): i64 {
  return (2 * index * rate + perSecond) / (2 * perSecond);
}
