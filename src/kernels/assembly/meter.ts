/**
 * The meter's hot loops. Each does what its reference in core/ does (named beside it), for segments of a programme
 * and in 16-frame blocks that are counted from the segment's start, so that no result depends on how its frames are cut.
 *
 * Memory is laid out by the loader. For the segments of a quad it calls: createQuad and createLane; weigh and prime with
 * frames before them, or with silence; process with pieces of whole blocks; weigh and finish with the frames that are left.
 */
import { closeLastBuckets, look, takeBlocks, takeRest } from './blocks';
import { closeRuns } from './clipped-runs';
import { BINS_PER_SECOND, BLOCK, CONTEXT, FRAME_SHIFT, gridFrame, inLane, Lane, laneOf, Quad, TICKS_PER_SECOND } from './quad';
import { closeBins, searchBlocks } from './true-peak';
import { forgetTick, weighFrames } from './weigh';

export { setReading } from './peak-reading';
export { setInterpolator } from './true-peak';
export { unpack, unpackFloat32Stereo, unpackInt16Stereo, unpackInt24Stereo, unpackIntegers } from './unpack';
export { setFilter } from './weigh';
export { setExactFilter, weighExactly } from './weigh-exactly';

/** Some 8 kB of samples, which stay in a core's first cache. */
const BLOCKS_AT_ONCE: i32 = 32;

export function createQuad(
  at: usize,
  rate: i32,
  samples: usize,
  magnitudes: usize,
  curvatures: usize,
  extremes: usize,
  lanes: usize,
): void {
  memory.fill(at, 0, offsetof<Quad>());
  const quad = changetype<Quad>(at);
  quad.rate = rate;
  quad.samples = samples;
  quad.magnitudes = magnitudes;
  quad.curvatures = curvatures;
  quad.extremes = extremes;
  quad.lanes = lanes;
  quad.low = f32x4.splat(Infinity);
  quad.high = f32x4.splat(-Infinity);
  quad.tickEnd = gridFrame(1, TICKS_PER_SECOND, rate);
  quad.binEnd = gridFrame(1, BINS_PER_SECOND, rate);
  memory.fill(samples - (CONTEXT << FRAME_SHIFT), 0, CONTEXT << FRAME_SHIFT);
  memory.fill(magnitudes, 0, 32);
  memory.fill(curvatures, 0, 32);
}

/**
 * @param isPrimed whether frames stand before the segment
 * @param waveBlocks blocks that stand between the last edge of a waveform bucket and the segment's start
 */
export function createLane(
  quadAt: usize,
  index: i32,
  isPrimed: bool,
  waveBlocks: i32,
  ticks: usize,
  squares: usize,
  binPeaks: usize,
  binFrames: usize,
  waveMin: usize,
  waveMax: usize,
  runs: usize,
): void {
  const quad = changetype<Quad>(quadAt);
  const lane = laneOf(quad, index);
  memory.fill(changetype<usize>(lane), 0, offsetof<Lane>());
  lane.quad = quad;
  lane.index = index;
  lane.primed = isPrimed;
  lane.waveBlocks = waveBlocks;
  lane.binReading = -1;
  lane.ticks = ticks;
  lane.squares = squares;
  lane.binPeaks = binPeaks;
  lane.binFrames = binFrames;
  lane.waveMin = waveMin;
  lane.waveMax = waveMax;
  lane.runs = runs;
}

/** Once frames before the segments have been weighed: they are forgotten, but for the filters and the context. */
export function prime(at: usize, frames: i32): void {
  const quad = changetype<Quad>(at);
  quad.frame = 0;
  quad.tickCount = 0;
  quad.tickEnd = gridFrame(1, TICKS_PER_SECOND, quad.rate);
  quad.sum = f64x2.splat(0);
  quad.sum2 = f64x2.splat(0);
  forgetTick(quad);
  keepContext(quad, frames);
  look(quad, -1);
}

/** Weighs so many frames: those ahead of the segments, or those that fill no block. */
export function weigh(at: usize, frames: i32): void {
  weighFrames(changetype<Quad>(at), 0, frames);
}

/** Takes in a piece of so many whole blocks; what is weighed is looked at while it is still near. */
export function process(at: usize, blocks: i32): void {
  const quad = changetype<Quad>(at);
  for (let block = 0; block < blocks; ) {
    const end = min<i32>(blocks, block + BLOCKS_AT_ONCE);
    weighFrames(quad, block * BLOCK, (end - block) * BLOCK);
    for (; block < end; block++) look(quad, block);
  }
  takeBlocks(quad, blocks);
  searchBlocks(quad, blocks, i64.MAX_VALUE, quad.frame + blocks * BLOCK);
  quad.frame += blocks * BLOCK;
  keepContext(quad, blocks * BLOCK);
}

function keepContext(quad: Quad, frames: i32): void {
  const context = quad.samples - (CONTEXT << FRAME_SHIFT);
  memory.copy(context, context + (frames << FRAME_SHIFT), CONTEXT << FRAME_SHIFT);
}

/**
 * Takes in the frames that fill no block, once they have been weighed, and closes what is open. Behind them lie
 * the programme's next samples, if the segments are followed by any, and silence.
 */
export function finish(at: usize, rest: i32, isFollowed: bool): void {
  const quad = changetype<Quad>(at);
  const frames = quad.frame + rest;
  let blocks = 0;
  if (rest > 0) {
    takeRest(quad, rest);
    blocks = 1;
  }
  closeRuns(quad, frames, isFollowed, quad.samples + (rest << FRAME_SHIFT));
  // A segment that is followed ends with its last frame; a programme, when what rings behind it has been searched too.
  const last = isFollowed ? 1 : blocks + 2;
  for (; blocks < last; blocks++) look(quad, blocks);
  searchBlocks(quad, blocks, isFollowed ? i64.MAX_VALUE : frames, i64.MAX_VALUE);
  if (frames > gridFrame(quad.binCount, BINS_PER_SECOND, quad.rate)) closeBins(quad);
  closeLastBuckets(quad);
}

/** Counts of ticks, bins, buckets and runs, and frames of the run at either edge; as seven int32. */
export function readCounts(at: usize, index: i32, to: usize): void {
  const quad = changetype<Quad>(at);
  const lane = laneOf(quad, index);
  store<i32>(to, quad.tickCount);
  store<i32>(to, quad.binCount, 4);
  store<i32>(to, lane.waveCount, 8);
  store<i32>(to, lane.runTotal, 12);
  store<i32>(to, lane.headFrames, 16);
  store<i32>(to, lane.tailFrames, 20);
  store<i32>(to, lane.tailIsHead ? 1 : 0, 24);
}

/** Sum, squares of the open tick, peak and its frame, and the jumps of the runs at either edge; as six f64. */
export function readTotals(at: usize, index: i32, to: usize): void {
  const lane = laneOf(changetype<Quad>(at), index);
  store<f64>(to, load<f64>(at + offsetof<Quad>('sum') + (index << 3)));
  store<f64>(to, load<f64>(at + offsetof<Quad>('squares') + (index << 3)), 8);
  store<f64>(to, <f64>load<f32>(inLane(at + offsetof<Quad>('peaks'), index)), 16);
  store<f64>(to, lane.peakFrame, 24);
  store<f64>(to, lane.headJump, 32);
  store<f64>(to, lane.tailJump, 40);
}

/** Where the module's own data end: the loader lays out what it needs behind that. */
export function dataEnd(): usize {
  return __heap_base;
}
