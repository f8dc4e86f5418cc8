import { BINS_PER_SECOND, BLOCK, CONTEXT, FRAME_SHIFT, gridFrame, inLane, Lane, LANES, laneOf, Quad } from './quad';
import { READING_BEFORE, READING_FRAMES, readPeak } from './peak-reading';
import { greatest, largest, magnitudeOf } from './vectors';

const HALF_TAPS: i32 = 16;
const TAPS_BEFORE: i32 = 15;
const TAPS: i32 = 32;
/** Bounds are widened by more than the rounding of what they bound, which goes with the magnitude. */
const ROUNDING_GUARD: f32 = 1.0 + 1e-5;
/** Some fifty roundings of f32 in the search, and some of the curvature. */
const CURVATURE_GUARD: f32 = 2.1e-5;
/** Of numbers this small the rounding is no longer a part of them. */
const LEAST_ROUNDING: f32 = 1e-37;
/** A part of a sample that is less than a step of f32, whose mantissa has 24 bits, and more than one of f64. */
const ANTICIPATION: f64 = 1e-12;
/** One channel's samples of the block that is searched, one behind the other, and what its windows reach to. */
const LINE_BEFORE: i32 = 16;
const LINE_FRAMES: i32 = 52;
const line = memory.data(52 * 4, 16);
/** The curvature around each of them but the first and the last few. */
const bends = memory.data(48 * 4, 16);

/* Where the loader has put the interpolator (core/peak/interpolator): for each tap, the even and the odd parts of all eight pairs of
   phases; and its bounds. */
let screen: usize = 0;
let weights: usize = 0;
/** In all lanes: what curvature is multiplied by, and then magnitude. */
const norms = memory.data(2 * 16, 16);

export function setInterpolator(screenAt: usize, weightsAt: usize, l1: f64, curvature: f64): void {
  screen = screenAt;
  weights = weightsAt;
  v128.store(norms, f32x4.splat(<f32>curvature));
  v128.store(norms, f32x4.splat(<f32>l1), 16);
}

/** The frame behind the last that is known. */
let viewEnd: i64 = 0;
/** Sixteenths of a sample that a peak may lie outside the two that it was found between. */
const BEYOND_SIXTEENTHS: i32 = 16;
/** Frames behind a peak that its reading needs. */
const READING_BEHIND: i64 = READING_FRAMES - READING_BEFORE - 1;

/**
 * Searches every block whose next block is in view, from the one before the piece; then keeps the maxima of the last
 * two.
 *
 * @param end the frame behind the programme's last, where its end is in view
 * @param known the frame behind the last that is known
 */
export function searchBlocks(quad: Quad, blocks: i32, end: i64, known: i64): void {
  viewEnd = known;
  readWaiting(quad);
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
  readLeaving(quad, blocks);
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
    takeSamples(quad, block, i, until);
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
    const isGreatest = magnitude > load<f32>(binSampleOf(quad, index));
    if (!isGreatest && least <= lane.binPeak) continue;
    let block = first;
    while (load<f32>(inLane(entries + (block << 4), index)) != magnitude) block++;
    if (isGreatest) setBinSample(quad, index, magnitude, block, 0);
    if (least <= lane.binPeak) continue;
    setBinPeak(lane, least);
    if (block + 1 < blocks) searchFrames(lane, block, 0, BLOCK);
  }
}

/** Some frames of a block, all in the open bin: whether its greatest sample is among them. */
function takeSamples(quad: Quad, block: i32, from: i32, to: i32): void {
  const first = quad.samples + ((block * BLOCK) << FRAME_SHIFT);
  let most = f32x4.splat(0);
  for (let i = from; i < to; i++) most = f32x4.pmax(most, magnitudeOf(v128.load(first + (i << FRAME_SHIFT))));
  v128.store(magnitudesInView, most);
  let greatest = i32x4.bitmask(v128.and(f32x4.ge(most, quad.binSamples), f32x4.gt(most, f32x4.splat(0))));
  for (; greatest != 0; greatest &= greatest - 1) {
    const index = ctz(greatest);
    setBinSample(quad, index, load<f32>(inLane(magnitudesInView, index)), block, from);
  }
}

/** The greatest sample of a bin, which stands in a block, at some frame or behind it. Of equals, the earliest counts. */
function setBinSample(quad: Quad, index: i32, magnitude: f32, block: i32, from: i32): void {
  const lane = laneOf(quad, index);
  const samples = inLane(quad.samples + ((block * BLOCK) << FRAME_SHIFT), index);
  let i = from;
  while (abs(load<f32>(samples + (i << FRAME_SHIFT))) != magnitude) i++;
  const frame = <f64>(quad.frame + block * BLOCK + i);
  const at = binSampleOf(quad, index);
  // What stands before a primed segment belongs to the segment before.
  if (frame < 0 || (magnitude == load<f32>(at) && frame >= lane.binSampleFrame)) return;
  store<f32>(at, magnitude);
  lane.binSampleFrame = frame;
}

@inline
function binSampleOf(quad: Quad, index: i32): usize {
  return inLane(changetype<usize>(quad) + offsetof<Quad>('binSamples'), index);
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
  const reach = f32x4.add(f32x4.mul(curvature, v128.load(norms)), roundingOf(magnitude));
  const byMagnitude = f32x4.mul(magnitude, v128.load(norms, 16));
  const byCurvature = f32x4.add(f32x4.pmax(own, next), reach);
  const bound = f32x4.mul(f32x4.pmin(byMagnitude, byCurvature), f32x4.splat(ROUNDING_GUARD));
  return i32x4.bitmask(f32x4.gt(bound, quad.binPeaks));
}

@inline
function roundingOf(magnitude: v128): v128 {
  const least = f32x4.pmin(magnitude, f32x4.splat(LEAST_ROUNDING));
  return f32x4.add(f32x4.mul(magnitude, f32x4.splat(CURVATURE_GUARD)), least);
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
  const rounding = roundingOf(f32x4.splat(magnitude));
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
      if (i >= from && i < to) peak = searchFrame(lane, line + ((LINE_BEFORE + i) << 2), <f64>(firstFrame + i), peak);
    }
  }
  setBinPeak(lane, peak);
}

@inline
function beatingFrames(nearest: v128, reach: v128, peak: f64): i32 {
  const bound = f32x4.mul(f32x4.add(nearest, reach), f32x4.splat(ROUNDING_GUARD));
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

@inline
function setFound(lane: Lane, frame: f64): void {
  lane.binFrame = frame;
  lane.binReading = -1;
}

/** The greater of `peak` and what stands at a sample or between it and the next. Of equals, the earliest counts. */
function searchFrame(lane: Lane, sample: usize, frame: f64, peak: f64): f64 {
  const here = <f64>abs(load<f32>(sample));
  if (here > peak || (here == peak && frame < lane.binFrame)) {
    peak = here;
    setFound(lane, frame);
  }
  const between = screenedPeak(sample - (TAPS_BEFORE << 2));
  if (between > peak || (between == peak && frame < lane.binFrame)) {
    peak = between;
    setFound(lane, frame);
  }
  return peak;
}

/** core/peak/interpolator screenedPeak, for all phases side by side. */
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

export function closeBins(quad: Quad): void {
  const start = gridFrame(quad.binCount + 1, BINS_PER_SECOND, quad.rate);
  for (let i = 0; i < LANES; i++) {
    const lane = laneOf(quad, i);
    const peaks = lane.binPeaks + (quad.binCount << 3);
    const frames = lane.binFrames + (quad.binCount << 3);
    const sample = load<f32>(binSampleOf(quad, i));
    if (lane.binReading < 0 && lane.binPeak > 0 && <i64>lane.binFrame + READING_BEHIND >= viewEnd) {
      lane.waitingPeak = peaks;
      lane.waitingFrame = frames;
      lane.waitingFound = lane.binFrame;
      lane.waitingSample = sample;
      lane.waitingSampleFrame = lane.binSampleFrame;
    } else {
      const reading = lane.binPeak > 0 ? (lane.binReading < 0 ? readAt(lane, lane.binFrame) : lane.binReading) : 0;
      storeBin(peaks, frames, reading, lane.binFrame, sample, lane.binSampleFrame);
    }
    setBinPeak(lane, 0);
    setFound(lane, <f64>start);
    lane.binSampleFrame = 0;
  }
  quad.binSamples = f32x4.splat(0);
  quad.binCount++;
  quad.binEnd = gridFrame(quad.binCount + 1, BINS_PER_SECOND, quad.rate);
}

/** The search's filter may read too high, and what is read there then be less than a sample elsewhere. */
function storeBin(peaks: usize, frames: usize, reading: f64, found: f64, sample: f32, sampleFrame: f64): void {
  const isSample = <f64>sample > reading;
  store<f64>(peaks, isSample ? <f64>sample : reading);
  store<f64>(frames, isSample ? sampleFrame : found);
}

/** Reads what was found at the end of a bin, once all that is around it is known. */
function readWaiting(quad: Quad): void {
  for (let i = 0; i < LANES; i++) {
    const lane = laneOf(quad, i);
    if (lane.waitingPeak == 0 || <i64>lane.waitingFound + READING_BEHIND >= viewEnd) continue;
    const reading = readAt(lane, lane.waitingFound);
    storeBin(
      lane.waitingPeak,
      lane.waitingFrame,
      reading,
      lane.waitingFound,
      lane.waitingSample,
      lane.waitingSampleFrame,
    );
    lane.waitingPeak = 0;
  }
}

/** Reads what has been found in the open bins and will be out of reach behind the piece. */
function readLeaving(quad: Quad, blocks: i32): void {
  const firstKept = <i64>(blocks * BLOCK - CONTEXT + READING_BEFORE);
  for (let i = 0; i < LANES; i++) {
    const lane = laneOf(quad, i);
    if (lane.binReading >= 0 || lane.binPeak == 0) continue;
    const place = <i64>lane.binFrame - quad.frame;
    // What lies further back has been read, or the bin's peak was only anticipated so far.
    if (place < firstKept && place >= READING_BEFORE - CONTEXT) lane.binReading = readAt(lane, lane.binFrame);
  }
}

function readAt(lane: Lane, frame: f64): f64 {
  const quad = lane.quad;
  const first = <i32>(<i64>frame - quad.frame) - READING_BEFORE;
  return readPeak(inLane(quad.samples + (first << FRAME_SHIFT), lane.index), 1 << FRAME_SHIFT, BEYOND_SIXTEENTHS);
}
