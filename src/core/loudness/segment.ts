import type { ClippedRun, OpenRun } from '../peak/clipped-runs';
import type { Waveform } from './waveform';

/**
 * Length of the segments that a programme is measured in, each on its own and on whatever thread is free. A whole
 * number of seconds keeps every grid, and a multiple of 16 frames the kernels' blocks, at any whole sample rate.
 */
export const SEGMENT_SECONDS = 16;
/**
 * What the filters are shown ahead of a segment. An IIR filter forgets: after 200 ms less than 1e-20 is left of what
 * the 38 Hz high-pass remembers.
 */
export const RUN_IN_SECONDS = 0.2;
/** Frames behind a segment that are looked at to read the peaks at its end. */
export const FOLLOWING_FRAMES = 176;

/** What has been found of one channel in a segment. Frames count from the start of the programme. */
export interface ChannelSegment {
  /** K-weighted sums of squares of every complete 10 ms. */
  ticks: Float64Array;
  /** Unweighted sums of squares of every complete 10 ms, and of what is left behind them. */
  tickSquares: Float64Array;
  restSquares: number;
  sum: number;
  samplePeak: number;
  samplePeakFrame: number;
  /** True peak (linear) of every 100 ms begun, and the frame at or after which it stands. */
  truePeaks: Float64Array;
  truePeakFrames: Float64Array;
  clippedRunCount: number;
  /** The places of the first thousand. */
  clippedRuns: ClippedRun[];
  /** A run that the segment begins within, and one that goes on behind it: not counted above. */
  headRun: OpenRun | undefined;
  tailRun: OpenRun | undefined;
  /** Undefined where it was not asked for. Buckets stand on the programme's grid, so the first may be a part of one. */
  waveform: Waveform | undefined;
}

/** A part of a programme, measured on its own. All but the last have the same length, a multiple of 100 ms. */
export interface Segment {
  startFrame: number;
  frames: number;
  channels: ChannelSegment[];
  /** Samples that were not a number or infinite; they were measured as silence. */
  nonFiniteSamples: number;
}

/** Where a programme's segments begin and how long they are. */
export function segmentAt(index: number, sampleRateHz: number, programmeFrames: number) {
  const whole = SEGMENT_SECONDS * sampleRateHz;
  const startFrame = index * whole;
  return { startFrame, frames: Math.min(whole, programmeFrames - startFrame) };
}

export function segmentCount(sampleRateHz: number, programmeFrames: number): number {
  return Math.ceil(programmeFrames / (SEGMENT_SECONDS * sampleRateHz));
}
