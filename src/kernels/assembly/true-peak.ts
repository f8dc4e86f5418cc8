import { BINS_PER_SECOND, BLOCK, FRAME_SHIFT, gridFrame, inLane, Lane, LANES, laneOf, Quad } from './quad';
import { across, greatest, largest, magnitudeOf } from './vectors';

const HALF_TAPS: i32 = 16;
const TAPS_BEFORE: i32 = 15;
const TAPS: i32 = 32;
const PHASE_PAIRS: i32 = 8;
/** Bounds are widened by more than their rounding; curvature is taken in f32, whose rounding goes with the magnitude. */
const ROUNDING_GUARD: f64 = 1.0 + 2e-6;
const CURVATURE_GUARD: f64 = 1e-6;
/** Some fifty roundings of f32, none of more than three times the greatest magnitude. */
const SCREEN_GUARD: f64 = 2e-5;
/** A part of a sample that is less than a step of f32, whose mantissa has 24 bits, and more than one of f64. */
const ANTICIPATION: f64 = 1e-12;
/** One channel's samples of the block that is searched, one behind the other, and what its windows reach to. */
const LINE_BEFORE: i32 = 16;
const LINE_FRAMES: i32 = 52;
const line = memory.data(52 * 4, 16);
/** The curvature around each of them but the first and the last few. */
const bends = memory.data(48 * 4, 16);

/* Where the loader has put the interpolator (core/peak/interpolator), and its bounds. */
let even: usize = 0;
let odd: usize = 0;
let scratch: usize = 0;
let weights: usize = 0;
/* The even and odd parts once more in f32: for each tap, all eight pairs of phases. */
let screen: usize = 0;
/** In all lanes: what curvature is multiplied by, and then magnitude. */
const norms = memory.data(2 * 16, 16);

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
  v128.store(norms, f32x4.splat(<f32>curvature));
  v128.store(norms, f32x4.splat(<f32>l1), 16);
}

/**
 * Searches every block whose next block is in view, from the one before the piece; then keeps the maxima of the last
 * two. `end` is the frame behind the programme's last, where its end is in view.
 */
export function searchBlocks(quad: Quad, blocks: i32, end: i64): void {
  anticipate(quad, blocks);
  const last = blocks - 1;
  let block = -1;
  while (block < last) {
    // Blocks that lie in the bin as a whole come first; those behind the end belong to the last.
    const inBin = min<i32>(last, <i32>((quad.binEnd - quad.frame) >> 4));
    block = searchWhole(quad, block, inBin);
    if (block < last) searchAcross(quad, block++, blocks, end);
  }
  memory.copy(quad.magnitudes, quad.magnitudes + (blocks << 4), 32);
  memory.copy(quad.curvatures, quad.curvatures + (blocks << 4), 32);
}

/** core/peak/true-peak, for blocks up to `last` that lie in one bin, four channels at a time; returns where it ended. */
function searchWhole(quad: Quad, block: i32, last: i32): i32 {
  for (; block < last; block++) {
    const beating = beatingLanes(quad, block);
    if (beating != 0) searchLanes(quad, beating, block, 0, BLOCK);
  }
  return block;
}

/** The same for a block that a bin ends in. */
function searchAcross(quad: Quad, block: i32, blocks: i32, end: i64): void {
  const firstFrame = quad.frame + block * BLOCK;
  let i = 0;
  do {
    const frame = firstFrame + i;
    if (frame >= quad.binEnd && frame < end) {
      closeBins(quad);
      anticipate(quad, blocks);
    }
    const until = frame < end ? min<i32>(BLOCK, i + <i32>min<i64>(BLOCK, quad.binEnd - frame)) : BLOCK;
    searchLanes(quad, beatingLanes(quad, block), block, i, until);
    i = until;
  } while (i < BLOCK);
}

function searchLanes(quad: Quad, beating: i32, block: i32, from: i32, to: i32): void {
  for (; beating != 0; beating &= beating - 1) {
    const lane = laneOf(quad, ctz(beating));
    // What stands before a primed segment belongs to the segment before.
    if (quad.frame + block * BLOCK >= 0 || !lane.primed) searchFrames(lane, block, from, to);
  }
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

/** The lanes in which a block may beat the bin's peak, one bit each. */
@inline
function beatingLanes(quad: Quad, block: i32): i32 {
  const magnitudes = quad.magnitudes + ((block + 1) << 4);
  const curvatures = quad.curvatures + ((block + 1) << 4);
  const own = v128.load(magnitudes, 16);
  const magnitude = f32x4.pmax(f32x4.pmax(v128.load(magnitudes), own), v128.load(magnitudes, 32));
  const curvature = f32x4.pmax(f32x4.pmax(v128.load(curvatures), v128.load(curvatures, 16)), v128.load(curvatures, 32));
  const next = magnitudeOf(v128.load(quad.samples + (((block + 1) * BLOCK) << FRAME_SHIFT)));
  const reach = f32x4.add(
    f32x4.mul(curvature, v128.load(norms)),
    f32x4.mul(magnitude, f32x4.splat(<f32>CURVATURE_GUARD)),
  );
  const byMagnitude = f32x4.mul(magnitude, v128.load(norms, 16));
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
  const curvature = largest(load<f32>(curvatures), load<f32>(curvatures, 16), load<f32>(curvatures, 32));
  const magnitude = largest(load<f32>(magnitudes), load<f32>(magnitudes, 16), load<f32>(magnitudes, 32));
  lineUp(inLane(quad.samples + ((block * BLOCK - LINE_BEFORE) << FRAME_SHIFT), lane.index));
  const rounding = f32x4.splat(<f32>(CURVATURE_GUARD * <f64>magnitude));
  const farthest = f32x4.add(f32x4.mul(f32x4.splat(curvature), v128.load(norms)), rounding);
  const firstFrame = quad.frame + block * BLOCK;
  let peak = lane.binPeak;
  for (let four = from & ~3; four < to; four += 4) {
    const sample = line + ((LINE_BEFORE + four) << 2);
    const nearest = f32x4.pmax(magnitudeOf(v128.load(sample)), magnitudeOf(v128.load(sample, 4)));
    if (beatingFrames(nearest, farthest, peak) == 0) continue;
    const reach = f32x4.add(reaches(bends + ((four + 1) << 2)), rounding);
    let beating = beatingFrames(nearest, reach, peak);
    for (; beating != 0; beating &= beating - 1) {
      const i = four + ctz(beating);
      if (i >= from && i < to) peak = searchFrame(lane, line + ((LINE_BEFORE + i) << 2), <f64>(firstFrame + i), magnitude, peak);
    }
  }
  setBinPeak(lane, peak);
}

@inline
function beatingFrames(nearest: v128, reach: v128, peak: f64): i32 {
  const bound = f32x4.mul(f32x4.add(nearest, reach), f32x4.splat(<f32>ROUNDING_GUARD));
  return i32x4.bitmask(f32x4.gt(bound, f32x4.splat(<f32>peak)));
}

/**
 * Puts a channel's samples, and the curvatures around them, one behind the other. What neighbours a vector comes from the
 * next one in registers: to load it from what two stores have just left would wait for both.
 */
function lineUp(from: usize): void {
  let x = fourFrames(from);
  v128.store(line, x);
  for (let to = line, bend = bends, end = line + ((LINE_FRAMES - 4) << 2); to < end; to += 16, bend += 16) {
    from += 64;
    const ahead = fourFrames(from);
    v128.store(to, ahead, 16);
    const middle = i8x16.shuffle(x, ahead, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19);
    const next = i8x16.shuffle(x, ahead, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23);
    v128.store(bend, magnitudeOf(f32x4.add(f32x4.sub(x, f32x4.add(middle, middle)), next)));
    x = ahead;
  }
}

@inline
function fourFrames(from: usize): v128 {
  const first = v128.load_lane<f32>(from + 16, v128.load_zero<f32>(from), 1);
  return v128.load_lane<f32>(from + 48, v128.load_lane<f32>(from + 32, first, 2), 3);
}

@inline
function setBinPeak(lane: Lane, peak: f64): void {
  lane.binPeak = peak;
  store<f32>(inLane(changetype<usize>(lane.quad) + offsetof<Quad>('binPeaks'), lane.index), <f32>peak);
}

/**
 * What curvature can add around four frames: the greatest weight that any phase gives to each of the 30 curvatures under
 * a window, times that curvature. `at` is the first of them for the first frame.
 */
@inline
function reaches(at: usize): v128 {
  let sum0 = f32x4.splat(0);
  let sum1 = sum0;
  let sum2 = sum0;
  let sum3 = sum0;
  for (let weight = weights, end = weights + (TAPS << 2); weight < end; weight += 16, at += 16) {
    sum0 = f32x4.add(sum0, f32x4.mul(v128.load_splat<f32>(weight), v128.load(at)));
    sum1 = f32x4.add(sum1, f32x4.mul(v128.load_splat<f32>(weight, 4), v128.load(at, 4)));
    sum2 = f32x4.add(sum2, f32x4.mul(v128.load_splat<f32>(weight, 8), v128.load(at, 8)));
    sum3 = f32x4.add(sum3, f32x4.mul(v128.load_splat<f32>(weight, 12), v128.load(at, 12)));
  }
  return f32x4.add(f32x4.add(sum0, sum1), f32x4.add(sum2, sum3));
}

/** The greater of `peak` and what stands at a sample or between it and the next. Of equals, the earliest counts. */
function searchFrame(lane: Lane, sample: usize, frame: f64, magnitude: f32, peak: f64): f64 {
  const here = <f64>abs(load<f32>(sample));
  if (here > peak || (here == peak && frame < lane.binFrame)) {
    peak = here;
    lane.binFrame = frame;
  }
  const window = sample - (TAPS_BEFORE << 2);
  if (screenedPeak(window) * ROUNDING_GUARD + SCREEN_GUARD * <f64>magnitude <= peak) return peak;
  const between = interpolatedPeak(window);
  if (between > peak || (between == peak && frame < lane.binFrame)) {
    peak = between;
    lane.binFrame = frame;
  }
  return peak;
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
  const first = f32x4.add(magnitudeOf(even0), magnitudeOf(odd0));
  const second = f32x4.add(magnitudeOf(even1), magnitudeOf(odd1));
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
