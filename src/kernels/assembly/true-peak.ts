import { BINS_PER_SECOND, BLOCK, FRAME_SHIFT, gridFrame, inLane, Lane, LANES, laneOf, Quad } from './quad';
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
/** One channel's samples of the block that is searched, one behind the other, and what its windows reach to. */
const LINE_BEFORE: i32 = 16;
const LINE_FRAMES: i32 = 52;
const line = memory.data(52 * 4, 16);

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
export function searchBlocks(quad: Quad, blocks: i32, end: i64): void {
  anticipate(quad, blocks);
  for (let block = -1; block < blocks - 1; block++) {
    const firstFrame = quad.frame + block * BLOCK;
    let i = 0;
    do {
      const frame = firstFrame + i;
      if (frame >= quad.binEnd && frame < end) {
        closeBins(quad);
        anticipate(quad, blocks);
      }
      const until = frame < end ? min<i32>(BLOCK, i + <i32>min<i64>(BLOCK, quad.binEnd - frame)) : BLOCK;
      const beating = beatingLanes(quad, block);
      for (let index = 0; beating >> index != 0; index++) {
        if (((beating >> index) & 1) == 0) continue;
        const lane = laneOf(quad, index);
        // What stands before a primed segment belongs to the segment before.
        if (firstFrame >= 0 || !lane.primed) searchFrames(lane, block, i, until);
      }
      i = until;
    } while (i < BLOCK);
  }
  const last = blocks << 4;
  memory.copy(quad.magnitudes, quad.magnitudes + last, 32);
  memory.copy(quad.curvatures, quad.curvatures + last, 32);
}

/**
 * The bin's peak can't be less than its greatest sample, so what can't beat that need not be searched. The value is set
 * a trifle lower than the sample (by less than a step of f32), so that the sample itself is still found, at its frame.
 * Then its block is searched ahead of the others: most true peaks stand there, and what can't beat them is passed over.
 */
function anticipate(quad: Quad, blocks: i32): void {
  const start = gridFrame(quad.binCount, BINS_PER_SECOND, quad.rate);
  const first = <i32>max<i64>(-1, (start - quad.frame + BLOCK - 1) >> 4);
  const end = <i32>min<i64>(blocks, (quad.binEnd - quad.frame) >> 4);
  const entries = quad.magnitudes + (2 << 4);
  let greatest = f32x4.splat(0);
  for (let block = first; block < end; block++) greatest = f32x4.pmax(greatest, v128.load(entries + (block << 4)));
  v128.store(magnitudesInView, greatest);
  for (let index = 0; index < LANES; index++) {
    const lane = laneOf(quad, index);
    const magnitude = load<f32>(inLane(magnitudesInView, index));
    const least = <f64>magnitude * (1.0 - ANTICIPATION);
    if (least <= lane.binPeak) continue;
    setBinPeak(lane, least);
    let block = first;
    while (load<f32>(inLane(entries + (block << 4), index)) != magnitude) block++;
    if (block + 1 < blocks) searchFrames(lane, block, 0, BLOCK);
  }
}

const magnitudesInView = memory.data(16, 16);

/** core/peak/true-peak, for one block of four channels: those in which it may beat the bin's peak, one bit each. */
@inline
function beatingLanes(quad: Quad, block: i32): i32 {
  const magnitudes = quad.magnitudes + ((block + 1) << 4);
  const curvatures = quad.curvatures + ((block + 1) << 4);
  const own = v128.load(magnitudes, 16);
  const magnitude = f32x4.pmax(f32x4.pmax(v128.load(magnitudes), own), v128.load(magnitudes, 32));
  const curvature = f32x4.pmax(f32x4.pmax(v128.load(curvatures), v128.load(curvatures, 16)), v128.load(curvatures, 32));
  const next = f32x4.abs(v128.load(quad.samples + (((block + 1) * BLOCK) << FRAME_SHIFT)));
  const reach = f32x4.add(
    f32x4.mul(curvature, f32x4.splat(<f32>curvatureNorm)),
    f32x4.mul(magnitude, f32x4.splat(<f32>CURVATURE_GUARD)),
  );
  const byMagnitude = f32x4.mul(magnitude, f32x4.splat(<f32>l1Norm));
  const byCurvature = f32x4.add(f32x4.pmax(own, next), reach);
  const bound = f32x4.mul(f32x4.pmin(byMagnitude, byCurvature), f32x4.splat(<f32>ROUNDING_GUARD));
  return i32x4.bitmask(f32x4.gt(bound, quad.binPeaks));
}

/** The frames of a block, from one on and up to another, of one channel. */
function searchFrames(lane: Lane, block: i32, from: i32, to: i32): void {
  const quad = lane.quad;
  const entry = (block + 1) << 4;
  const magnitudes = inLane(quad.magnitudes + entry, lane.index);
  const curvatures = inLane(quad.curvatures + entry, lane.index);
  const magnitude = largest(load<f32>(magnitudes), load<f32>(magnitudes, 16), load<f32>(magnitudes, 32));
  const curvature = largest(load<f32>(curvatures), load<f32>(curvatures, 16), load<f32>(curvatures, 32));
  const reach = curvatureNorm * <f64>curvature + CURVATURE_GUARD * <f64>magnitude;
  const reaches = f32x4.splat(<f32>reach);
  lineUp(inLane(quad.samples + ((block * BLOCK - LINE_BEFORE) << FRAME_SHIFT), lane.index));
  const at = line + (LINE_BEFORE << 2);
  const firstFrame = quad.frame + block * BLOCK;
  let peak = lane.binPeak;
  for (let four = from & ~3; four < to; four += 4) {
    const sample = at + (four << 2);
    const nearest = f32x4.pmax(f32x4.abs(v128.load(sample)), f32x4.abs(v128.load(sample, 4)));
    const bound = f32x4.mul(f32x4.add(nearest, reaches), f32x4.splat(<f32>ROUNDING_GUARD));
    const beating = i32x4.bitmask(f32x4.gt(bound, f32x4.splat(<f32>peak)));
    if (beating == 0) continue;
    for (let i = max<i32>(four, from); i < min<i32>(four + 4, to); i++) {
      if (((beating >> (i - four)) & 1) == 0) continue;
      peak = searchFrame(lane, at + (i << 2), <f64>(firstFrame + i), magnitude, peak);
    }
  }
  setBinPeak(lane, peak);
}

function lineUp(from: usize): void {
  for (let to = line, end = line + (LINE_FRAMES << 2); to < end; to += 16, from += 64) {
    const first = v128.load_lane<f32>(from + 16, v128.load_zero<f32>(from), 1);
    v128.store(to, v128.load_lane<f32>(from + 48, v128.load_lane<f32>(from + 32, first, 2), 3));
  }
}

@inline
function setBinPeak(lane: Lane, peak: f64): void {
  lane.binPeak = peak;
  store<f32>(inLane(changetype<usize>(lane.quad) + offsetof<Quad>('binPeaks'), lane.index), <f32>peak);
}

/** The greater of `peak` and what stands at a sample or between it and the next. Of equals, the earliest counts. */
function searchFrame(lane: Lane, sample: usize, frame: f64, magnitude: f32, peak: f64): f64 {
  const here = <f64>abs(load<f32>(sample));
  if (here > peak || (here == peak && frame < lane.binFrame)) {
    peak = here;
    lane.binFrame = frame;
  }
  const next = <f64>abs(load<f32>(sample + 4));
  if ((larger(here, next) + localReach(sample) + CURVATURE_GUARD * <f64>magnitude) * ROUNDING_GUARD <= peak) return peak;
  const window = sample - (TAPS_BEFORE << 2);
  if (screenedPeak(window) * ROUNDING_GUARD + SCREEN_GUARD * <f64>magnitude <= peak) return peak;
  const between = interpolatedPeak(window);
  if (between > peak || (between == peak && frame < lane.binFrame)) {
    peak = between;
    lane.binFrame = frame;
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

/** |x[i] − 2x[i + 1] + x[i + 2]| of four samples from `at` on: the curvature around the sample behind each. */
@inline
function bend(at: usize): v128 {
  const middle = v128.load(at, 4);
  return f32x4.abs(f32x4.add(f32x4.sub(v128.load(at), f32x4.add(middle, middle)), v128.load(at, 8)));
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

export function closeBins(quad: Quad): void {
  const start = gridFrame(quad.binCount + 1, BINS_PER_SECOND, quad.rate);
  for (let i = 0; i < LANES; i++) {
    const lane = laneOf(quad, i);
    store<f64>(lane.binPeaks + (quad.binCount << 3), lane.binPeak);
    store<f64>(lane.binFrames + (quad.binCount << 3), lane.binFrame);
    setBinPeak(lane, 0);
    lane.binFrame = <f64>start;
  }
  quad.binCount++;
  quad.binEnd = gridFrame(quad.binCount + 1, BINS_PER_SECOND, quad.rate);
}
