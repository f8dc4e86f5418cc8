import { BINS_PER_SECOND, BLOCK, Channel, gridFrame, samplesAt } from './channel';
import { across, greatest, larger, largest, upper } from './vectors';

const HALF_TAPS: i32 = 16;
const TAPS_BEFORE: i32 = 15;
const TAPS: i32 = 32;
const PHASE_PAIRS: i32 = 8;
/** Bounds are widened by more than their rounding; curvature is taken in f32, whose rounding goes with the magnitude. */
const ROUNDING_GUARD: f64 = 1.0 + 1e-6;
const CURVATURE_GUARD: f64 = 1e-6;
/** A part of a sample that is less than a step of f32, whose mantissa has 24 bits, and more than one of f64. */
const ANTICIPATION: f64 = 1e-12;

/* Where the loader has put the interpolator (core/peak/interpolator), and its bounds. */
let even: usize = 0;
let odd: usize = 0;
let scratch: usize = 0;
let weights: usize = 0;
let l1Norm: f64 = 0;
let curvatureNorm: f64 = 0;

export function setInterpolator(evenAt: usize, oddAt: usize, scratchAt: usize, weightsAt: usize, l1: f64, curvature: f64): void {
  even = evenAt;
  odd = oddAt;
  scratch = scratchAt;
  weights = weightsAt;
  l1Norm = l1;
  curvatureNorm = curvature;
}

/** |x[i − 2] − 2x[i − 1] + x[i]| of four samples: the curvature around the sample before each. */
@inline
function bend(at: usize): v128 {
  const middle = v128.load(at - 4);
  return f32x4.abs(f32x4.add(f32x4.sub(v128.load(at - 8), f32x4.add(middle, middle)), v128.load(at)));
}

/** core/peak/true-peak: the maxima of the block that comes into view. */
export function admit(channel: Channel, at: usize, block: i32, magnitude: f32): void {
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
export function searchBlocks(channel: Channel, programmeFrames: i64): void {
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

export function closeBin(channel: Channel, programmeFrames: i64): void {
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
