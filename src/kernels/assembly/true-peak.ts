import { BINS_PER_SECOND, BLOCK, Channel, gridFrame } from './channel';
import { bend, GROUP } from './blocks';
import { across, greatest, larger, largest } from './vectors';

const HALF_TAPS: i32 = 16;
const TAPS_BEFORE: i32 = 15;
const TAPS: i32 = 32;
const PHASE_PAIRS: i32 = 8;
/** Bounds are widened by more than their rounding; curvature is taken in f32, whose rounding goes with the magnitude. */
const ROUNDING_GUARD: f64 = 1.0 + 1e-6;
const CURVATURE_GUARD: f64 = 1e-6;
/** Some fifty roundings of f32, none of more than three times the greatest magnitude. */
const SCREEN_GUARD: f64 = 2e-5;
/** A part of a sample that is less than a step of f32, whose mantissa has 24 bits, and more than one of f64. */
const ANTICIPATION: f64 = 1e-12;

/* Where the loader has put the interpolator (core/peak/interpolator), and its bounds. */
let even: usize = 0;
let odd: usize = 0;
let scratch: usize = 0;
let weights: usize = 0;
/* The even and odd parts once more in f32: for each tap, all eight pairs of phases. */
let screen: usize = 0;
let l1Norm: f64 = 0;
let curvatureNorm: f64 = 0;

export function setInterpolator(
  evenAt: usize,
  oddAt: usize,
  scratchAt: usize,
  weightsAt: usize,
  screenAt: usize,
  l1: f64,
  curvature: f64,
): void {
  even = evenAt;
  odd = oddAt;
  scratch = scratchAt;
  weights = weightsAt;
  screen = screenAt;
  l1Norm = l1;
  curvatureNorm = curvature;
}

/**
 * Searches every block whose next block is in view, from the one before the piece; then keeps the maxima of the last
 * two. `end` is the frame behind the programme's last, where its end is in view.
 */
export function searchBlocks(channel: Channel, blocks: i32, end: i64): void {
  anticipate(channel, blocks);
  // What stands before a primed segment belongs to the segment before.
  let block = channel.frame == 0 && channel.primed ? 0 : -1;
  while (block < blocks - 1) {
    const isGroup = block + GROUP <= blocks - 1 && channel.frame + (block + GROUP) * BLOCK <= channel.binEnd;
    if (isGroup) searchGroup(channel, block);
    else search(channel, block, blocks, end);
    block += isGroup ? GROUP : 1;
  }
  const last = blocks << 2;
  store<u64>(channel.magnitudes, load<u64>(channel.magnitudes + last));
  store<u64>(channel.curvatures, load<u64>(channel.curvatures + last));
}

/**
 * The bin's peak can't be less than its greatest sample, so what can't beat that need not be searched. The value is set
 * a trifle lower than the sample (by less than a step of f32), so that the sample itself is still found, at its frame.
 * Then its block is searched ahead of the others: most true peaks stand there, and what can't beat them is passed over.
 */
function anticipate(channel: Channel, blocks: i32): void {
  const start = gridFrame(channel.binCount, BINS_PER_SECOND, channel.rate);
  const first = <i32>max<i64>(-1, (start - channel.frame + BLOCK - 1) >> 4);
  const end = <i32>min<i64>(blocks, (channel.binEnd - channel.frame) >> 4);
  let block = first;
  let magnitudes = f32x4.splat(0);
  for (; block + GROUP <= end; block += GROUP) {
    magnitudes = f32x4.pmax(magnitudes, v128.load(channel.magnitudes + ((block + 2) << 2)));
  }
  let magnitude = greatest(magnitudes);
  for (; block < end; block++) {
    const value = load<f32>(channel.magnitudes + ((block + 2) << 2));
    if (value > magnitude) magnitude = value;
  }
  const least = <f64>magnitude * (1.0 - ANTICIPATION);
  if (least <= channel.binPeak) return;
  channel.binPeak = least;
  block = first;
  while (load<f32>(channel.magnitudes + ((block + 2) << 2)) != magnitude) block++;
  if (block + 1 < blocks) {
    const at = channel.samples + ((block * BLOCK) << 2);
    searchFrames(channel, at, 0, BLOCK, channel.frame + block * BLOCK, block);
  }
}

/** core/peak/true-peak, for four blocks inside one bin, whose next block is in view. */
function searchGroup(channel: Channel, block: i32): void {
  const at = channel.samples + ((block * BLOCK) << 2);
  const magnitudes = channel.magnitudes + ((block + 1) << 2);
  const curvatures = channel.curvatures + ((block + 1) << 2);
  const own = v128.load(magnitudes, 4);
  const magnitude = f32x4.pmax(f32x4.pmax(v128.load(magnitudes), own), v128.load(magnitudes, 8));
  const curvature = f32x4.pmax(f32x4.pmax(v128.load(curvatures), v128.load(curvatures, 4)), v128.load(curvatures, 8));
  const next = f32x4.abs(
    v128.load_lane<f32>(
      at + 256,
      v128.load_lane<f32>(at + 192, v128.load_lane<f32>(at + 128, v128.load_zero<f32>(at + 64), 1), 2),
      3,
    ),
  );
  const reach = f32x4.add(
    f32x4.mul(curvature, f32x4.splat(<f32>curvatureNorm)),
    f32x4.mul(magnitude, f32x4.splat(<f32>CURVATURE_GUARD)),
  );
  const byMagnitude = f32x4.mul(magnitude, f32x4.splat(<f32>l1Norm));
  const byCurvature = f32x4.add(f32x4.pmax(own, next), reach);
  const bound = f32x4.mul(f32x4.pmin(byMagnitude, byCurvature), f32x4.splat(<f32>ROUNDING_GUARD));
  const beating = i32x4.bitmask(f32x4.gt(bound, f32x4.splat(<f32>channel.binPeak)));
  if (beating == 0) return;
  for (let i = 0; i < GROUP; i++) {
    if (((beating >> i) & 1) == 0) continue;
    const firstFrame = channel.frame + (block + i) * BLOCK;
    searchFrames(channel, at + ((i * BLOCK) << 2), 0, BLOCK, firstFrame, block + i);
  }
}

/** core/peak/true-peak, for one block whose next block is in view; bins may end in it. */
function search(channel: Channel, block: i32, blocks: i32, end: i64): void {
  const at = channel.samples + ((block * BLOCK) << 2);
  const firstFrame = channel.frame + block * BLOCK;
  let i = 0;
  while (i < BLOCK) {
    const frame = firstFrame + i;
    if (frame >= channel.binEnd && frame < end) {
      closeBin(channel);
      anticipate(channel, blocks);
    }
    const until = frame < end ? min<i32>(BLOCK, i + <i32>min<i64>(BLOCK, channel.binEnd - frame)) : BLOCK;
    searchFrames(channel, at, i, until, firstFrame, block);
    i = until;
  }
}

function searchFrames(channel: Channel, at: usize, from: i32, to: i32, firstFrame: i64, block: i32): void {
  const magnitudes = channel.magnitudes + ((block + 1) << 2);
  const curvatures = channel.curvatures + ((block + 1) << 2);
  const magnitude = largest(load<f32>(magnitudes), load<f32>(magnitudes, 4), load<f32>(magnitudes, 8));
  const curvature = largest(load<f32>(curvatures), load<f32>(curvatures, 4), load<f32>(curvatures, 8));
  const reach = curvatureNorm * <f64>curvature + CURVATURE_GUARD * <f64>magnitude;
  const reaches = f32x4.splat(<f32>reach);
  let peak = channel.binPeak;
  for (let quad = from & ~3; quad < to; quad += 4) {
    const sample = at + (quad << 2);
    const nearest = f32x4.pmax(f32x4.abs(v128.load(sample)), f32x4.abs(v128.load(sample, 4)));
    const bound = f32x4.mul(f32x4.add(nearest, reaches), f32x4.splat(<f32>ROUNDING_GUARD));
    const beating = i32x4.bitmask(f32x4.gt(bound, f32x4.splat(<f32>peak)));
    if (beating == 0) continue;
    for (let i = max<i32>(quad, from); i < min<i32>(quad + 4, to); i++) {
      if (((beating >> (i - quad)) & 1) == 0) continue;
      peak = searchFrame(channel, at + (i << 2), <f64>(firstFrame + i), magnitude, peak);
    }
  }
  channel.binPeak = peak;
}

/** The greater of `peak` and what stands at a sample or between it and the next. Of equals, the earliest counts. */
function searchFrame(channel: Channel, sample: usize, frame: f64, magnitude: f32, peak: f64): f64 {
  const here = <f64>abs(load<f32>(sample));
  if (here > peak || (here == peak && frame < channel.binFrame)) {
    peak = here;
    channel.binFrame = frame;
  }
  const next = <f64>abs(load<f32>(sample + 4));
  if ((larger(here, next) + localReach(sample) + CURVATURE_GUARD * <f64>magnitude) * ROUNDING_GUARD <= peak) return peak;
  const window = sample - (TAPS_BEFORE << 2);
  if (screenedPeak(window) * ROUNDING_GUARD + SCREEN_GUARD * <f64>magnitude <= peak) return peak;
  const between = interpolatedPeak(window);
  if (between > peak || (between == peak && frame < channel.binFrame)) {
    peak = between;
    channel.binFrame = frame;
  }
  return peak;
}

/**
 * What curvature can add around one frame: the greatest weight that any phase gives to each of the 30 curvatures under
 * its window, times that curvature.
 */
function localReach(sample: usize): f64 {
  const from = sample - (15 << 2);
  let sum0 = f32x4.mul(v128.load(weights), bend(from));
  let sum1 = f32x4.mul(v128.load(weights, 16), bend(from + 16));
  sum0 = f32x4.add(sum0, f32x4.mul(v128.load(weights, 32), bend(from + 32)));
  sum1 = f32x4.add(sum1, f32x4.mul(v128.load(weights, 48), bend(from + 48)));
  sum0 = f32x4.add(sum0, f32x4.mul(v128.load(weights, 64), bend(from + 64)));
  sum1 = f32x4.add(sum1, f32x4.mul(v128.load(weights, 80), bend(from + 80)));
  sum0 = f32x4.add(sum0, f32x4.mul(v128.load(weights, 96), bend(from + 96)));
  sum1 = f32x4.add(sum1, f32x4.mul(v128.load(weights, 112), bend(from + 112)));
  const sum = f32x4.add(sum0, sum1);
  return <f64>(f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3));
}
/** interpolatedPeak in f32, for all phases side by side: nearly its value, at a third of its cost. */
function screenedPeak(window: usize): f64 {
  let even0 = f32x4.splat(0);
  let even1 = even0;
  let odd0 = even0;
  let odd1 = even0;
  let at = screen;
  let mirror = window + ((TAPS - 1) << 2);
  for (const end = window + (HALF_TAPS << 2); window < end; window += 4, mirror -= 4, at += 64) {
    const left = v128.load_splat<f32>(window);
    const right = v128.load_splat<f32>(mirror);
    const sum = f32x4.add(left, right);
    const difference = f32x4.sub(left, right);
    even0 = f32x4.add(even0, f32x4.mul(v128.load(at), sum));
    even1 = f32x4.add(even1, f32x4.mul(v128.load(at, 16), sum));
    odd0 = f32x4.add(odd0, f32x4.mul(v128.load(at, 32), difference));
    odd1 = f32x4.add(odd1, f32x4.mul(v128.load(at, 48), difference));
  }
  const first = f32x4.add(f32x4.abs(even0), f32x4.abs(odd0));
  const second = f32x4.add(f32x4.abs(even1), f32x4.abs(odd1));
  return <f64>greatest(f32x4.pmax(first, second));
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

export function closeBin(channel: Channel): void {
  store<f64>(channel.binPeaks + (channel.binCount << 3), channel.binPeak);
  store<f64>(channel.binFrames + (channel.binCount << 3), channel.binFrame);
  channel.binCount++;
  channel.binEnd = gridFrame(channel.binCount + 1, BINS_PER_SECOND, channel.rate);
  channel.binPeak = 0;
  channel.binFrame = <f64>gridFrame(channel.binCount, BINS_PER_SECOND, channel.rate);
}
