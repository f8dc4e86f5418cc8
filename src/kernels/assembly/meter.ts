/**
 * The meter's hot loops. Each does what its reference in core/ does (named beside it), on 16-frame blocks that are
 * counted from the start of the programme, so that no result depends on how the frames were cut.
 *
 * Memory is laid out by the loader. Of each channel's samples, the two blocks before the next one are kept in front.
 */
const BLOCK: i32 = 16;
const CONTEXT: i32 = 32;
const HALF_TAPS: i32 = 16;
const TAPS_BEFORE: i32 = 15;
const TAPS: i32 = 32;
const PHASE_PAIRS: i32 = 8;
const WAVEFORM_BLOCKS: i32 = 16;
const TICKS_PER_SECOND: i64 = 100;
const BINS_PER_SECOND: i64 = 10;
/** Bounds are widened by more than their rounding; curvature is taken in f32, whose rounding goes with the magnitude. */
const ROUNDING_GUARD: f64 = 1.0 + 1e-6;
const CURVATURE_GUARD: f64 = 1e-6;
const NEGLIGIBLE: f64 = 1e-30;
/** A part of a sample that is less than a step of f32, whose mantissa has 24 bits, and more than one of f64. */
const ANTICIPATION: f64 = 1e-12;
const LEAST_RUN_FRAMES: i32 = 3;
const FULL_SCALE: f32 = 0.999969482421875;
const LEAST_JUMP: f64 = 0.0001220703125;
const RUNS_KEPT: i32 = 1000;

@unmanaged
class Channel {
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
  // How many of each the last call completed; squares run two blocks ahead of peaks.
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

let even: usize = 0;
let odd: usize = 0;
let scratch: usize = 0;
let weights: usize = 0;
let l1Norm: f64 = 0;
let curvatureNorm: f64 = 0;

export function channelBytes(): usize {
  return offsetof<Channel>();
}

export function setInterpolator(evenAt: usize, oddAt: usize, scratchAt: usize, weightsAt: usize, l1: f64, curvature: f64): void {
  even = evenAt;
  odd = oddAt;
  scratch = scratchAt;
  weights = weightsAt;
  l1Norm = l1;
  curvatureNorm = curvature;
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

/** core/units/frames gridFrame, in integers: round(index · rate / perSecond). */
function gridFrame(index: i64, perSecond: i64, rate: i64): i64 {
  return (2 * index * rate + perSecond) / (2 * perSecond);
}

function samplesAt(channel: Channel, index: i32): usize {
  return channel.samples + ((CONTEXT + index) << 2);
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

/**
 * core/loudness/k-weighting KWeightingFilter and channel-energy: two channels in the lanes of one chain. Their ticks
 * fall together, since they are of one programme.
 */
function weigh(first: usize, second: usize, count: i32): void {
  const a = changetype<Channel>(first);
  const b = changetype<Channel>(second);
  const b0 = f64x2.splat(a.b0);
  const b1 = f64x2.splat(a.b1);
  const b2 = f64x2.splat(a.b2);
  const a1 = f64x2.splat(a.a1);
  const a2 = f64x2.splat(a.a2);
  const c1 = f64x2.splat(a.c1);
  const c2 = f64x2.splat(a.c2);
  let s1 = lanes(a.s1, b.s1);
  let s2 = lanes(a.s2, b.s2);
  let h1 = lanes(a.h1, b.h1);
  let h2 = lanes(a.h2, b.h2);
  let sum = lanes(a.tickSum, b.tickSum);
  let tick = a.tick;
  let tickCount = 0;
  let atA = samplesAt(a, 0);
  let atB = samplesAt(b, 0);
  let frame = a.frame;
  let left = count;
  while (left > 0) {
    const tickEnd = gridFrame(tick + 1, TICKS_PER_SECOND, a.rate);
    const run = min<i32>(left, <i32>(tickEnd - frame));
    const until = atA + (run << 2);
    for (; atA < until; atA += 4, atB += 4) {
      const x = f64x2.promote_low_f32x4(f32x4.replace_lane(f32x4.splat(load<f32>(atA)), 1, load<f32>(atB)));
      const y = f64x2.add(f64x2.mul(b0, x), s1);
      s1 = f64x2.sub(f64x2.add(f64x2.mul(b1, x), s2), f64x2.mul(a1, y));
      s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
      const z = f64x2.add(y, h1);
      h1 = f64x2.sub(f64x2.sub(h2, f64x2.add(y, y)), f64x2.mul(c1, z));
      h2 = f64x2.sub(y, f64x2.mul(c2, z));
      sum = f64x2.add(sum, f64x2.mul(z, z));
    }
    left -= run;
    frame += run;
    if (frame == tickEnd) {
      store<f64>(a.ticks + (tickCount << 3), f64x2.extract_lane(sum, 0));
      store<f64>(b.ticks + (tickCount << 3), f64x2.extract_lane(sum, 1));
      tickCount++;
      tick++;
      sum = f64x2.splat(0);
      s1 = settled(s1);
      s2 = settled(s2);
      h1 = settled(h1);
      h2 = settled(h2);
    }
  }
  a.s1 = f64x2.extract_lane(s1, 0);
  a.s2 = f64x2.extract_lane(s2, 0);
  a.h1 = f64x2.extract_lane(h1, 0);
  a.h2 = f64x2.extract_lane(h2, 0);
  a.tickSum = f64x2.extract_lane(sum, 0);
  a.tick = tick;
  a.tickCount = tickCount;
  if (first == second) return;
  b.s1 = f64x2.extract_lane(s1, 1);
  b.s2 = f64x2.extract_lane(s2, 1);
  b.h1 = f64x2.extract_lane(h1, 1);
  b.h2 = f64x2.extract_lane(h2, 1);
  b.tickSum = f64x2.extract_lane(sum, 1);
  b.tick = tick;
  b.tickCount = tickCount;
}

function lanes(a: f64, b: f64): v128 {
  return f64x2.replace_lane(f64x2.splat(a), 1, b);
}

/** A state too small to matter becomes zero, before it is a denormal number that slows every later sample down. */
function settled(state: v128): v128 {
  return v128.and(state, f64x2.ge(f64x2.abs(state), f64x2.splat(NEGLIGIBLE)));
}

@inline
function least(x: v128): f32 {
  const pairs = f32x4.pmin(x, i8x16.shuffle(x, x, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  return f32x4.extract_lane(f32x4.pmin(pairs, i8x16.shuffle(pairs, pairs, 4, 5, 6, 7, 0, 1, 2, 3, 12, 13, 14, 15, 8, 9, 10, 11)), 0);
}

@inline
function greatest(x: v128): f32 {
  const pairs = f32x4.pmax(x, i8x16.shuffle(x, x, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  return f32x4.extract_lane(f32x4.pmax(pairs, i8x16.shuffle(pairs, pairs, 4, 5, 6, 7, 0, 1, 2, 3, 12, 13, 14, 15, 8, 9, 10, 11)), 0);
}

/** The upper two of four f32, as f64. */
@inline
function upper(x: v128): v128 {
  return f64x2.promote_low_f32x4(i8x16.shuffle(x, x, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15));
}

@inline
function square(x: v128): v128 {
  return f64x2.mul(x, x);
}

@inline
function across(x: v128): f64 {
  return f64x2.extract_lane(x, 0) + f64x2.extract_lane(x, 1);
}

/** Peaks, sums, waveform and clipped runs of the next block, of which `count` frames are real. */
function takeBlock(channel: Channel, at: usize, block: i32, count: i32): void {
  let low = load<f32>(at);
  let high = low;
  let sum: f64 = 0;
  let squares: f64 = 0;
  if (count == BLOCK) {
    const x0 = v128.load(at);
    const x1 = v128.load(at, 16);
    const x2 = v128.load(at, 32);
    const x3 = v128.load(at, 48);
    low = least(f32x4.pmin(f32x4.pmin(x0, x1), f32x4.pmin(x2, x3)));
    high = greatest(f32x4.pmax(f32x4.pmax(x0, x1), f32x4.pmax(x2, x3)));
    const l0 = f64x2.promote_low_f32x4(x0);
    const l1 = f64x2.promote_low_f32x4(x1);
    const l2 = f64x2.promote_low_f32x4(x2);
    const l3 = f64x2.promote_low_f32x4(x3);
    const r0 = upper(x0);
    const r1 = upper(x1);
    const r2 = upper(x2);
    const r3 = upper(x3);
    sum = across(f64x2.add(f64x2.add(f64x2.add(l0, r0), f64x2.add(l1, r1)), f64x2.add(f64x2.add(l2, r2), f64x2.add(l3, r3))));
    squares = across(
      f64x2.add(
        f64x2.add(f64x2.add(square(l0), square(r0)), f64x2.add(square(l1), square(r1))),
        f64x2.add(f64x2.add(square(l2), square(r2)), f64x2.add(square(l3), square(r3))),
      ),
    );
  } else {
    for (let i = 0; i < count; i++) {
      const x = load<f32>(at + (i << 2));
      low = min(low, x);
      high = max(high, x);
      sum += <f64>x;
      squares += <f64>x * <f64>x;
    }
  }
  const magnitude = high > -low ? high : -low;
  channel.sum += sum;
  addSquares(channel, at, count, squares);

  if (magnitude > channel.peak) {
    channel.peak = magnitude;
    let i = 0;
    while (abs(load<f32>(at + (i << 2))) != magnitude) i++;
    channel.peakFrame = <f64>(channel.frame + i);
  }

  if (low < channel.low) channel.low = low;
  if (high > channel.high) channel.high = high;
  channel.waveBlocks++;
  if (channel.waveBlocks == WAVEFORM_BLOCKS) closeBucket(channel);

  if (magnitude >= FULL_SCALE || channel.runLength > 0) scanRuns(channel, at, count);
  admit(channel, at, block, magnitude);
}

/** core/peak/sample-statistics: the squares of every complete 100 ms. */
function addSquares(channel: Channel, at: usize, count: i32, squares: f64): void {
  const binEnd = channel.squareBinEnd;
  if (channel.frame + count < binEnd) {
    channel.squares += squares;
    return;
  }
  const before = <i32>(binEnd - channel.frame);
  let running = channel.squares;
  for (let i = 0; i < before; i++) {
    const x = <f64>load<f32>(at + (i << 2));
    running += x * x;
  }
  store<f64>(channel.binSquares + (channel.squareCount << 3), running);
  channel.squareCount++;
  channel.squareBin++;
  channel.squareBinEnd = gridFrame(channel.squareBin + 1, BINS_PER_SECOND, channel.rate);
  running = 0;
  for (let i = before; i < count; i++) {
    const x = <f64>load<f32>(at + (i << 2));
    running += x * x;
  }
  channel.squares = running;
}

/** core/loudness/waveform. */
function closeBucket(channel: Channel): void {
  store<f32>(channel.waveMin + (channel.waveCount << 2), channel.low);
  store<f32>(channel.waveMax + (channel.waveCount << 2), channel.high);
  channel.waveCount++;
  channel.waveBlocks = 0;
  channel.low = <f32>Infinity;
  channel.high = <f32>-Infinity;
}

/** core/peak/clipped-runs. Only blocks that reach full scale, or that a run goes into, are looked at. */
function scanRuns(channel: Channel, at: usize, count: i32): void {
  for (let i = 0; i < count; i++) {
    const x = load<f32>(at + (i << 2));
    if (channel.runLength > 0 && x == channel.runValue) {
      channel.runLength++;
      continue;
    }
    if (channel.runLength > 0) endRun(channel, channel.frame + i, abs(<f64>channel.runValue - <f64>x));
    if (abs(x) >= FULL_SCALE) {
      channel.runValue = x;
      channel.runLength = 1;
      const isFirst = channel.frame + i == 0;
      channel.entryJump = isFirst ? Infinity : abs(<f64>x - <f64>load<f32>(at + (i << 2) - 4));
    }
  }
}

function endRun(channel: Channel, endFrame: i64, exitJump: f64): void {
  if (channel.runLength >= LEAST_RUN_FRAMES && max(channel.entryJump, exitJump) > LEAST_JUMP) {
    if (channel.runTotal < RUNS_KEPT) {
      store<f64>(channel.runs + (channel.runCount << 4), <f64>(endFrame - channel.runLength));
      store<f64>(channel.runs + (channel.runCount << 4) + 8, <f64>channel.runLength);
      channel.runCount++;
    }
    channel.runTotal++;
  }
  channel.runLength = 0;
}

/** |x[i − 2] − 2x[i − 1] + x[i]| of four samples: the curvature around the sample before each. */
@inline
function bend(at: usize): v128 {
  const middle = v128.load(at - 4);
  return f32x4.abs(f32x4.add(f32x4.sub(v128.load(at - 8), f32x4.add(middle, middle)), v128.load(at)));
}

/** core/peak/true-peak: the maxima of the block that comes into view. */
function admit(channel: Channel, at: usize, block: i32, magnitude: f32): void {
  const to = at + channel.curvatureOffset;
  const d0 = bend(at);
  const d1 = bend(at + 16);
  const d2 = bend(at + 32);
  const d3 = bend(at + 48);
  v128.store(to, d0);
  v128.store(to, d1, 16);
  v128.store(to, d2, 32);
  v128.store(to, d3, 48);
  const curvature = greatest(f32x4.pmax(f32x4.pmax(d0, d1), f32x4.pmax(d2, d3)));
  store<f32>(channel.magnitudes + ((block + 2) << 2), magnitude);
  store<f32>(channel.curvatures + ((block + 2) << 2), curvature);
}

/**
 * Searches every block whose next block is in view, from the one before the call's first; then keeps the last two.
 */
function searchBlocks(channel: Channel, programmeFrames: i64): void {
  anticipate(channel);
  for (let block = -1; block < channel.callBlocks - 1; block++) {
    search(channel, samplesAt(channel, block * BLOCK), block, programmeFrames);
  }
  const last = channel.callBlocks << 2;
  store<u64>(channel.magnitudes, load<u64>(channel.magnitudes + last));
  store<u64>(channel.curvatures, load<u64>(channel.curvatures + last));
}

/**
 * The bin's peak can't be less than its greatest sample, so what can't beat that need not be searched. The value is set
 * a trifle lower than the sample (by less than a step of f32), so that the sample itself is still found, at its frame.
 */
function anticipate(channel: Channel): void {
  const start = gridFrame(channel.bin, BINS_PER_SECOND, channel.rate);
  let block = <i32>max<i64>(-1, (start - channel.callFrame + BLOCK - 1) >> 4);
  const end = <i32>min<i64>(channel.callBlocks, (channel.binEnd - channel.callFrame) >> 4);
  let magnitude: f32 = 0;
  for (; block < end; block++) {
    const value = load<f32>(channel.magnitudes + ((block + 2) << 2));
    if (value > magnitude) magnitude = value;
  }
  const least = <f64>magnitude * (1.0 - ANTICIPATION);
  if (least > channel.binPeak) channel.binPeak = least;
}

/** The larger of two numbers that are numbers: cheaper than max, which minds NaN and the sign of zero. */
@inline
function larger(a: f64, b: f64): f64 {
  return a > b ? a : b;
}

@inline
function largest(a: f32, b: f32, c: f32): f32 {
  const ab = a > b ? a : b;
  return ab > c ? ab : c;
}

/** core/peak/true-peak: searches one block whose next block is in view. */
function search(channel: Channel, at: usize, block: i32, programmeFrames: i64): void {
  const firstFrame = channel.callFrame + block * BLOCK;
  const magnitudes = channel.magnitudes + ((block + 1) << 2);
  const curvatures = channel.curvatures + ((block + 1) << 2);
  const own = <f64>load<f32>(magnitudes, 4);
  const magnitude = larger(larger(<f64>load<f32>(magnitudes), own), <f64>load<f32>(magnitudes, 8));
  const curvature = <f64>largest(load<f32>(curvatures), load<f32>(curvatures, 4), load<f32>(curvatures, 8));
  const reach = curvatureNorm * curvature + CURVATURE_GUARD * magnitude;
  const nearest = larger(own, abs(<f64>load<f32>(at + (BLOCK << 2))));
  const byMagnitude = l1Norm * magnitude;
  const byCurvature = nearest + reach;
  const bound = (byMagnitude < byCurvature ? byMagnitude : byCurvature) * ROUNDING_GUARD;
  // The common case: a whole block inside its bin, that can't beat what has been found there.
  if (firstFrame + BLOCK <= channel.binEnd && bound <= channel.binPeak) return;
  let i = 0;
  while (i < BLOCK) {
    const frame = firstFrame + i;
    if (frame >= channel.binEnd && frame < programmeFrames) closeBin(channel, programmeFrames);
    const end = frame < programmeFrames ? min<i32>(BLOCK, i + <i32>min<i64>(BLOCK, channel.binEnd - frame)) : BLOCK;
    if (bound > channel.binPeak) searchFrames(channel, at, i, end, firstFrame, reach, magnitude);
    i = end;
  }
}

function searchFrames(channel: Channel, at: usize, from: i32, to: i32, firstFrame: i64, reach: f64, magnitude: f64): void {
  let peak = channel.binPeak;
  for (let i = from; i < to; i++) {
    const sample = at + (i << 2);
    const here = <f64>abs(load<f32>(sample));
    if (here > peak) {
      peak = here;
      channel.binFrame = <f64>(firstFrame + i);
    }
    const next = <f64>abs(load<f32>(sample + 4));
    if ((larger(here, next) + reach) * ROUNDING_GUARD <= peak) continue;
    const local = localReach(sample + channel.curvatureOffset) + CURVATURE_GUARD * magnitude;
    if ((larger(here, next) + local) * ROUNDING_GUARD <= peak) continue;
    const between = interpolatedPeak(sample - (TAPS_BEFORE << 2));
    if (between > peak) {
      peak = between;
      channel.binFrame = <f64>(firstFrame + i);
    }
  }
  channel.binPeak = peak;
}

/**
 * What curvature can add around one frame: the greatest weight that any phase gives to each of the 30 curvatures under
 * its window, times that curvature. `at` is where the curvature around the sample before the frame is.
 */
function localReach(at: usize): f64 {
  // Curvature around sample n − 14 stands beside sample n − 13.
  const from = at - (13 << 2);
  let sum0 = f32x4.mul(v128.load(weights), v128.load(from));
  let sum1 = f32x4.mul(v128.load(weights, 16), v128.load(from, 16));
  sum0 = f32x4.add(sum0, f32x4.mul(v128.load(weights, 32), v128.load(from, 32)));
  sum1 = f32x4.add(sum1, f32x4.mul(v128.load(weights, 48), v128.load(from, 48)));
  sum0 = f32x4.add(sum0, f32x4.mul(v128.load(weights, 64), v128.load(from, 64)));
  sum1 = f32x4.add(sum1, f32x4.mul(v128.load(weights, 80), v128.load(from, 80)));
  sum0 = f32x4.add(sum0, f32x4.mul(v128.load(weights, 96), v128.load(from, 96)));
  sum1 = f32x4.add(sum1, f32x4.mul(v128.load(weights, 112), v128.load(from, 112)));
  const sum = f32x4.add(sum0, sum1);
  return <f64>(f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3));
}

/** core/peak/interpolator interpolatedPeak, with its two running sums in the lanes: the same additions in the same order. */
function interpolatedPeak(window: usize): f64 {
  const sums = scratch;
  const differences = scratch + (HALF_TAPS << 3);
  for (let i: usize = 0; i < 16; i += 4) {
    const left = v128.load(window + (i << 2));
    const ahead = v128.load(window + ((<usize>TAPS - 4 - i) << 2));
    const right = i8x16.shuffle(ahead, ahead, 12, 13, 14, 15, 8, 9, 10, 11, 4, 5, 6, 7, 0, 1, 2, 3);
    const leftLow = f64x2.promote_low_f32x4(left);
    const rightLow = f64x2.promote_low_f32x4(right);
    const leftHigh = f64x2.promote_low_f32x4(i8x16.shuffle(left, left, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15));
    const rightHigh = f64x2.promote_low_f32x4(i8x16.shuffle(right, right, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15));
    v128.store(sums + (i << 3), f64x2.add(leftLow, rightLow));
    v128.store(sums + (i << 3) + 16, f64x2.add(leftHigh, rightHigh));
    v128.store(differences + (i << 3), f64x2.sub(leftLow, rightLow));
    v128.store(differences + (i << 3) + 16, f64x2.sub(leftHigh, rightHigh));
  }
  let peak: f64 = 0;
  let evenAt = even;
  let oddAt = odd;
  for (let pair = 0; pair < PHASE_PAIRS; pair++) {
    const e = dot(evenAt, sums);
    const o = dot(oddAt, differences);
    evenAt += 128;
    oddAt += 128;
    const value = abs(across(e)) + abs(across(o));
    if (value > peak) peak = value;
  }
  return peak;
}

/** Sixteen products, added in two lanes in the order of the reference (0 + the first product is the first product). */
@inline
function dot(a: usize, b: usize): v128 {
  let sum = f64x2.mul(v128.load(a), v128.load(b));
  sum = f64x2.add(sum, f64x2.mul(v128.load(a, 16), v128.load(b, 16)));
  sum = f64x2.add(sum, f64x2.mul(v128.load(a, 32), v128.load(b, 32)));
  sum = f64x2.add(sum, f64x2.mul(v128.load(a, 48), v128.load(b, 48)));
  sum = f64x2.add(sum, f64x2.mul(v128.load(a, 64), v128.load(b, 64)));
  sum = f64x2.add(sum, f64x2.mul(v128.load(a, 80), v128.load(b, 80)));
  sum = f64x2.add(sum, f64x2.mul(v128.load(a, 96), v128.load(b, 96)));
  return f64x2.add(sum, f64x2.mul(v128.load(a, 112), v128.load(b, 112)));
}

function closeBin(channel: Channel, programmeFrames: i64): void {
  store<f64>(channel.binPeaks + (channel.binCount << 3), channel.binPeak);
  const frame = min(max(channel.binFrame, 0), <f64>(programmeFrames - 1));
  store<f64>(channel.binFrames + (channel.binCount << 3), frame);
  channel.binCount++;
  channel.bin++;
  channel.binEnd = gridFrame(channel.bin + 1, BINS_PER_SECOND, channel.rate);
  channel.binPeak = 0;
  channel.binFrame = <f64>gridFrame(channel.bin, BINS_PER_SECOND, channel.rate);
  anticipate(channel);
}

/*
 * Unpacking: interleaved little-endian samples to planar f32, one channel at a time (formats/wav/samples unpack).
 */
/** Stereo, four frames a turn; the loader takes the last ones apart. */
export function unpackStereoInt24(from: usize, left: usize, right: usize, quads: i32): void {
  const scale = f32x4.splat(0.0000000004656612873077393);
  const mask = i32x4.splat(0xffffff00);
  for (let i = 0; i < quads; i++, from += 24, left += 16, right += 16) {
    const a = v128.load(from);
    const b = v128.load(from, 8);
    // The lowest byte of each lane is whatever came before, and is masked away.
    const l = i8x16.shuffle(a, b, 0, 0, 1, 2, 0, 6, 7, 8, 0, 12, 13, 14, 0, 26, 27, 28);
    const r = i8x16.shuffle(a, b, 0, 3, 4, 5, 0, 9, 10, 11, 0, 23, 24, 25, 0, 29, 30, 31);
    v128.store(left, f32x4.mul(f32x4.convert_i32x4_s(v128.and(l, mask)), scale));
    v128.store(right, f32x4.mul(f32x4.convert_i32x4_s(v128.and(r, mask)), scale));
  }
}

export function unpackStereoInt16(from: usize, left: usize, right: usize, quads: i32): void {
  const scale = f32x4.splat(0.000030517578125);
  for (let i = 0; i < quads; i++, from += 16, left += 16, right += 16) {
    const both = v128.load(from);
    v128.store(left, f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_s(i32x4.shl(both, 16), 16)), scale));
    v128.store(right, f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_s(both, 16)), scale));
  }
}

export function unpackInt16(from: usize, stride: i32, to: usize, frames: i32): void {
  for (let i = 0; i < frames; i++, from += stride, to += 4) store<f32>(to, <f32>load<i16>(from) * 0.000030517578125);
}

/** `from` points one byte before the first sample: a sample and the byte before it are one 32-bit load. */
export function unpackInt24(from: usize, stride: i32, to: usize, frames: i32): void {
  for (let i = 0; i < frames; i++, from += stride, to += 4) {
    store<f32>(to, <f32>(load<i32>(from) >> 8) * 0.00000011920928955078125);
  }
}

export function unpackInt32(from: usize, stride: i32, to: usize, frames: i32): void {
  for (let i = 0; i < frames; i++, from += stride, to += 4) {
    store<f32>(to, <f32>load<i32>(from) * 0.0000000004656612873077393);
  }
}

/** Returns how many samples were not finite; they become silence. */
export function unpackFloat32(from: usize, stride: i32, to: usize, frames: i32): i32 {
  let nonFinite = 0;
  for (let i = 0; i < frames; i++, from += stride, to += 4) {
    let x = load<f32>(from);
    if (x - x != 0) {
      x = 0;
      nonFinite++;
    }
    store<f32>(to, x);
  }
  return nonFinite;
}
