/**
 * The meter's hot loops. Each does what its reference in core/ does (named beside it), for one segment of a programme
 * and in 16-frame blocks that are counted from the segment's start, so that no result depends on how its frames are cut.
 *
 * Memory is laid out by the loader. For a segment it calls: createChannel; weigh and prime with frames before it, if there
 * are any; weigh and process with pieces of whole blocks; weigh and finish with the frames that are left.
 */
import { admit, closeLastBucket, takeBlocks, takeRest } from './blocks';
import { BINS_PER_SECOND, BLOCK, Channel, CONTEXT, gridFrame, TICKS_PER_SECOND } from './channel';
import { closeRun } from './clipped-runs';
import { closeBin, searchBlocks } from './true-peak';

export { setInterpolator } from './true-peak';
export { unpack, unpackFloat32Stereo, unpackInt16Stereo, unpackInt24Stereo } from './unpack';
export { setFilter, weigh } from './weigh';
export { setExactFilter, weighExactly } from './weigh-exactly';

export function channelBytes(): usize {
  return offsetof<Channel>();
}

/** @param waveBlocks blocks that stand between the last edge of a waveform bucket and the segment's start */
export function createChannel(
  at: usize,
  rate: i32,
  waveBlocks: i32,
  samples: usize,
  magnitudes: usize,
  curvatures: usize,
  ticks: usize,
  squares: usize,
  binPeaks: usize,
  binFrames: usize,
  waveMin: usize,
  waveMax: usize,
  runs: usize,
): void {
  memory.fill(at, 0, offsetof<Channel>());
  const channel = changetype<Channel>(at);
  channel.rate = rate;
  channel.samples = samples;
  channel.magnitudes = magnitudes;
  channel.curvatures = curvatures;
  channel.ticks = ticks;
  channel.squares = squares;
  channel.binPeaks = binPeaks;
  channel.binFrames = binFrames;
  channel.waveMin = waveMin;
  channel.waveMax = waveMax;
  channel.runs = runs;
  channel.waveBlocks = waveBlocks;
  v128.store(at + offsetof<Channel>('low0'), f32x4.splat(<f32>Infinity));
  v128.store(at + offsetof<Channel>('high0'), f32x4.splat(<f32>-Infinity));
  channel.binEnd = gridFrame(1, BINS_PER_SECOND, rate);
  channel.tickEnd = gridFrame(1, TICKS_PER_SECOND, rate);
  memory.fill(samples - (CONTEXT << 2), 0, CONTEXT << 2);
  memory.fill(magnitudes, 0, 8);
  memory.fill(curvatures, 0, 8);
}

/** Once frames before the segment have been weighed: they are forgotten, but for the filters and the context. */
export function prime(at: usize, frames: i32): void {
  const channel = changetype<Channel>(at);
  channel.primed = true;
  channel.frame = 0;
  channel.tickCount = 0;
  channel.tickEnd = gridFrame(1, TICKS_PER_SECOND, channel.rate);
  channel.tickEnergy = 0;
  channel.tickSquares = 0;
  channel.sum = 0;
  keepContext(channel, frames);
  admit(channel, -1);
}

/** Takes in a piece of so many whole blocks, once it has been weighed. */
export function process(at: usize, blocks: i32): void {
  const channel = changetype<Channel>(at);
  takeBlocks(channel, blocks);
  searchBlocks(channel, blocks, i64.MAX_VALUE);
  channel.frame += blocks * BLOCK;
  keepContext(channel, blocks * BLOCK);
}

function keepContext(channel: Channel, frames: i32): void {
  memory.copy(channel.samples - (CONTEXT << 2), channel.samples + ((frames - CONTEXT) << 2), CONTEXT << 2);
}

/**
 * Takes in the frames that fill no block, once they have been weighed, and closes what is open. Behind them lie two
 * blocks: the programme's next samples, of which there are `following`, and silence.
 */
export function finish(at: usize, rest: i32, following: i32): void {
  const channel = changetype<Channel>(at);
  const frames = channel.frame + rest;
  const behind = channel.samples + (rest << 2);
  let blocks = 0;
  if (rest > 0) {
    takeRest(channel, 0, rest);
    blocks = 1;
  }
  closeRun(channel, frames, following > 0, load<f32>(behind));
  // A segment that is followed ends with its last frame; a programme, when what rings behind it has been searched too.
  const last = following > 0 ? 1 : blocks + 2;
  for (; blocks < last; blocks++) admit(channel, blocks);
  searchBlocks(channel, blocks, following > 0 ? i64.MAX_VALUE : frames);
  if (frames > gridFrame(channel.binCount, BINS_PER_SECOND, channel.rate)) closeBin(channel);
  closeLastBucket(channel);
}

/** Counts of ticks, bins, buckets and runs, and frames of the run at either edge; as seven int32. */
export function readCounts(at: usize, to: usize): void {
  const channel = changetype<Channel>(at);
  store<i32>(to, channel.tickCount);
  store<i32>(to, channel.binCount, 4);
  store<i32>(to, channel.waveCount, 8);
  store<i32>(to, channel.runTotal, 12);
  store<i32>(to, channel.headFrames, 16);
  store<i32>(to, channel.tailFrames, 20);
  store<i32>(to, channel.tailIsHead ? 1 : 0, 24);
}

/** Sum, squares of the open tick, peak and its frame, and the jumps of the runs at either edge; as six f64. */
export function readTotals(at: usize, to: usize): void {
  const channel = changetype<Channel>(at);
  store<f64>(to, channel.sum);
  store<f64>(to, channel.tickSquares, 8);
  store<f64>(to, <f64>channel.peak, 16);
  store<f64>(to, channel.peakFrame, 24);
  store<f64>(to, channel.headJump, 32);
  store<f64>(to, channel.tailJump, 40);
}
