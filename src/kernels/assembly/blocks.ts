import { FULL_SCALE, scanRuns } from './clipped-runs';
import { BLOCK, FRAME_SHIFT, inLane, LANES, laneOf, Quad } from './quad';

const WAVEFORM_BLOCKS: i32 = 16;

/** Looks at one block of the piece, or beside it: enters its extremes, magnitudes and curvatures. */
export function look(quad: Quad, block: i32): void {
  let at = quad.samples + ((block * BLOCK) << FRAME_SHIFT);
  let before = v128.load(at - 16);
  let step = f32x4.sub(before, v128.load(at - 32));
  let low = v128.load(at);
  let high = low;
  let bendLow = f32x4.splat(0);
  let bendHigh = bendLow;
  for (const end = at + (BLOCK << FRAME_SHIFT); at < end; at += 32) {
    const x = v128.load(at);
    const y = v128.load(at, 16);
    low = f32x4.pmin(low, f32x4.pmin(x, y));
    high = f32x4.pmax(high, f32x4.pmax(x, y));
    const toX = f32x4.sub(x, before);
    const toY = f32x4.sub(y, x);
    const atBefore = f32x4.sub(toX, step);
    const atX = f32x4.sub(toY, toX);
    bendLow = f32x4.pmin(bendLow, f32x4.pmin(atBefore, atX));
    bendHigh = f32x4.pmax(bendHigh, f32x4.pmax(atBefore, atX));
    before = y;
    step = toY;
  }
  const entry = (block + 2) << 4;
  v128.store(quad.magnitudes + entry, f32x4.pmax(high, f32x4.neg(low)));
  v128.store(quad.curvatures + entry, f32x4.pmax(bendHigh, f32x4.neg(bendLow)));
  v128.store(quad.extremes + (entry << 1), low);
  v128.store(quad.extremes + (entry << 1), high, 16);
}

/** Peaks, waveform and clipped runs of the piece's whole blocks, once each has been looked at. */
export function takeBlocks(quad: Quad, blocks: i32): void {
  let low = quad.low;
  let high = quad.high;
  let passed = 0;
  let untilEdge = blocksUntilEdge(quad);
  for (let block = 0; block < blocks; block++) {
    const entry = (block + 2) << 4;
    const magnitude = v128.load(quad.magnitudes + entry);
    low = f32x4.pmin(low, v128.load(quad.extremes + (entry << 1)));
    high = f32x4.pmax(high, v128.load(quad.extremes + (entry << 1), 16));
    if (++passed == untilEdge) {
      quad.low = low;
      quad.high = high;
      passBlocks(quad, passed);
      low = quad.low;
      high = quad.high;
      passed = 0;
      untilEdge = blocksUntilEdge(quad);
    }
    if (v128.any_true(f32x4.gt(magnitude, quad.peaks))) takePeaks(quad, block, BLOCK);
    if (quad.openRuns > 0 || v128.any_true(f32x4.ge(magnitude, f32x4.splat(FULL_SCALE)))) scanRuns(quad, block, BLOCK);
  }
  quad.low = low;
  quad.high = high;
  passBlocks(quad, passed);
}

/** The segments' last frames where they fill no block; behind them stands silence, which is no part of the waveform. */
export function takeRest(quad: Quad, count: i32): void {
  look(quad, 0);
  let low = quad.low;
  let high = quad.high;
  for (let at = quad.samples, end = at + (count << FRAME_SHIFT); at < end; at += 16) {
    const x = v128.load(at);
    low = f32x4.pmin(low, x);
    high = f32x4.pmax(high, x);
  }
  quad.low = low;
  quad.high = high;
  for (let i = 0; i < LANES; i++) laneOf(quad, i).waveBlocks++;
  takePeaks(quad, 0, count);
  scanRuns(quad, 0, count);
}

/** core/loudness/waveform: the open buckets, if anything is in them. */
export function closeLastBuckets(quad: Quad): void {
  for (let i = 0; i < LANES; i++) {
    if (laneOf(quad, i).waveBlocks > 0) closeBucket(quad, i);
  }
}

/** Buckets stand on the programme's grid, and so may end at other blocks in one segment than in the next. */
function blocksUntilEdge(quad: Quad): i32 {
  let furthest = 0;
  for (let i = 0; i < LANES; i++) furthest = max(furthest, laneOf(quad, i).waveBlocks);
  return WAVEFORM_BLOCKS - furthest;
}

function passBlocks(quad: Quad, blocks: i32): void {
  for (let i = 0; i < LANES; i++) {
    const lane = laneOf(quad, i);
    lane.waveBlocks += blocks;
    if (lane.waveBlocks == WAVEFORM_BLOCKS) closeBucket(quad, i);
  }
}

function closeBucket(quad: Quad, index: i32): void {
  const lane = laneOf(quad, index);
  const low = inLane(changetype<usize>(quad) + offsetof<Quad>('low'), index);
  const high = inLane(changetype<usize>(quad) + offsetof<Quad>('high'), index);
  store<f32>(lane.waveMin + (lane.waveCount << 2), load<f32>(low));
  store<f32>(lane.waveMax + (lane.waveCount << 2), load<f32>(high));
  store<f32>(low, Infinity);
  store<f32>(high, -Infinity);
  lane.waveCount++;
  lane.waveBlocks = 0;
}

/** core/peak/sample-statistics: where the sample peak stands first. */
function takePeaks(quad: Quad, block: i32, count: i32): void {
  const peaks = changetype<usize>(quad) + offsetof<Quad>('peaks');
  for (let i = 0; i < LANES; i++) {
    let at = inLane(quad.samples + ((block * BLOCK) << FRAME_SHIFT), i);
    let peak = load<f32>(inLane(peaks, i));
    for (let n = 0; n < count; n++, at += 16) {
      const magnitude = abs(load<f32>(at));
      if (magnitude <= peak) continue;
      peak = magnitude;
      laneOf(quad, i).peakFrame = <f64>(quad.frame + block * BLOCK + n);
    }
    store<f32>(inLane(peaks, i), peak);
  }
}
