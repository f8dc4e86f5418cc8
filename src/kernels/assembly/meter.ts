/**
 * The meter's hot loops. Each does what its reference in core/ does (named beside it), on 16-frame blocks that are
 * counted from the start of the programme, so that no result depends on how the frames were cut.
 *
 * Memory is laid out by the loader. Of each channel's samples, the two blocks before the next one are kept in front.
 */
import { closeBucket, takeBlock } from './blocks';
import { BINS_PER_SECOND, BLOCK, Channel, CONTEXT, gridFrame, samplesAt } from './channel';
import { endRun } from './clipped-runs';
import { admit, closeBin, searchBlocks } from './true-peak';
import { weigh } from './weigh';

export { setInterpolator } from './true-peak';
export {
  unpackFloat32,
  unpackInt16,
  unpackInt24,
  unpackInt32,
  unpackStereoInt16,
  unpackStereoInt24,
} from './unpack';

export function channelBytes(): usize {
  return offsetof<Channel>();
}

export function createChannel(
  at: usize,
  rate: i32,
  samples: usize,
  curvatures: usize,
  blockMagnitudes: usize,
  blockCurvatures: usize,
  ticks: usize,
  binPeaks: usize,
  binFrames: usize,
  binSquares: usize,
  waveMin: usize,
  waveMax: usize,
  runs: usize,
): void {
  memory.fill(at, 0, offsetof<Channel>());
  const channel = changetype<Channel>(at);
  channel.rate = rate;
  channel.samples = samples;
  channel.curvatureOffset = curvatures - samples;
  channel.magnitudes = blockMagnitudes;
  channel.curvatures = blockCurvatures;
  memory.fill(blockMagnitudes, 0, 8);
  memory.fill(blockCurvatures, 0, 8);
  channel.ticks = ticks;
  channel.binPeaks = binPeaks;
  channel.binFrames = binFrames;
  channel.binSquares = binSquares;
  channel.waveMin = waveMin;
  channel.waveMax = waveMax;
  channel.runs = runs;
  channel.low = <f32>Infinity;
  channel.high = <f32>-Infinity;
  channel.binEnd = gridFrame(1, BINS_PER_SECOND, rate);
  channel.squareBinEnd = channel.binEnd;
  memory.fill(samples, 0, CONTEXT << 2);
  memory.fill(curvatures, 0, CONTEXT << 2);
}

export function setFilter(at: usize, b0: f64, b1: f64, b2: f64, a1: f64, a2: f64, c1: f64, c2: f64): void {
  const channel = changetype<Channel>(at);
  channel.b0 = b0;
  channel.b1 = b1;
  channel.b2 = b2;
  channel.a1 = a1;
  channel.a2 = a2;
  channel.c1 = c1;
  channel.c2 = c2;
}

/** How many of each the last call completed: ticks, bins, bins of squares, buckets, runs; as five int32. */
export function readCounts(at: usize, to: usize): void {
  const channel = changetype<Channel>(at);
  store<i32>(to, channel.tickCount);
  store<i32>(to + 4, channel.binCount);
  store<i32>(to + 8, channel.squareCount);
  store<i32>(to + 12, channel.waveCount);
  store<i32>(to + 16, channel.runCount);
}

/** Totals so far: sum, squares of the open bin, peak and its frame, clipped runs; as five f64. */
export function readTotals(at: usize, to: usize): void {
  const channel = changetype<Channel>(at);
  store<f64>(to, channel.sum);
  store<f64>(to + 8, channel.squares);
  store<f64>(to + 16, <f64>channel.peak);
  store<f64>(to + 24, channel.peakFrame);
  store<f64>(to + 32, <f64>channel.runTotal);
}

/** How many samples wait for their block: the loader puts the next ones behind them. */
export function waiting(at: usize): i32 {
  return changetype<Channel>(at).waiting;
}

/** Takes in the frames that the loader has put behind those that wait; `second` is 0 where there is no other channel. */
export function process(first: usize, second: usize, frames: i32): void {
  const a = changetype<Channel>(first);
  const blocks = (a.waiting + frames) / BLOCK;
  weigh(first, second == 0 ? first : second, blocks * BLOCK);
  takeBlocks(a, frames, blocks);
  if (second != 0) takeBlocks(changetype<Channel>(second), frames, blocks);
}

function takeBlocks(channel: Channel, frames: i32, blocks: i32): void {
  clearCounts(channel);
  channel.callFrame = channel.frame;
  channel.callBlocks = blocks;
  for (let block = 0; block < blocks; block++) {
    takeBlock(channel, samplesAt(channel, block * BLOCK), block, BLOCK);
    channel.frame += BLOCK;
  }
  searchBlocks(channel, i64.MAX_VALUE);
  const left = channel.waiting + frames - blocks * BLOCK;
  const done = (blocks * BLOCK) << 2;
  memory.copy(channel.samples, channel.samples + done, (CONTEXT + left) << 2);
  const curvatures = channel.samples + channel.curvatureOffset;
  memory.copy(curvatures, curvatures + done, CONTEXT << 2);
  channel.waiting = left;
}

function clearCounts(channel: Channel): void {
  channel.binCount = 0;
  channel.squareCount = 0;
  channel.waveCount = 0;
  channel.runCount = 0;
}

/** Takes in what waits, and what rings behind the programme; closes what is open. */
export function finish(first: usize, second: usize): void {
  weigh(first, second == 0 ? first : second, changetype<Channel>(first).waiting);
  finishChannel(changetype<Channel>(first));
  if (second != 0) finishChannel(changetype<Channel>(second));
}

function finishChannel(channel: Channel): void {
  clearCounts(channel);
  const left = channel.waiting;
  const frames = channel.frame + left;
  memory.fill(samplesAt(channel, left), 0, (3 * BLOCK) << 2);
  channel.callFrame = channel.frame;
  channel.callBlocks = 0;
  if (left > 0) {
    takeBlock(channel, samplesAt(channel, 0), 0, left);
    channel.callBlocks = 1;
  }
  for (let i = 0; i < 2; i++, channel.callBlocks++) {
    admit(channel, samplesAt(channel, channel.callBlocks * BLOCK), channel.callBlocks, 0);
  }
  searchBlocks(channel, frames);
  if (frames > gridFrame(channel.bin, BINS_PER_SECOND, channel.rate)) closeBin(channel, frames);
  if (channel.runLength > 0) endRun(channel, frames, Infinity);
  if (channel.waveBlocks > 0) closeBucket(channel);
}
