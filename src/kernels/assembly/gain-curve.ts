/** core/limiter/gain-curve for one stretch, in f32: windows grow by doubling, four nodes at a time. */

/** Room around the nodes of a stretch: more than any window reaches to, and a vector. */
let area: usize = 0;

/** @param at where a window's values are put together: `count`, its width and eight more, in f32 */
export function setArea(at: usize): void {
  area = at;
}

/** Copies values to the area, with so many places before and behind them, which hold what is given. */
function spread(from: usize, count: i32, before: i32, behind: i32, first: f32, last: f32): void {
  let at = area;
  for (let i = 0; i < before; i++, at += 4) store<f32>(at, first);
  memory.copy(at, from, <usize>count << 2);
  at += <usize>count << 2;
  for (let i = 0; i < behind + 8; i++, at += 4) store<f32>(at, last);
}

function slideMax(from: usize, to: usize, count: i32, before: i32, behind: i32): void {
  slide(from, to, count, before, behind, false);
}

function slideMin(from: usize, to: usize, count: i32, before: i32, behind: i32): void {
  slide(from, to, count, before, behind, true);
}

@inline
function slide(from: usize, to: usize, count: i32, before: i32, behind: i32, isLeast: bool): void {
  const width = before + behind + 1;
  spread(from, count, before, behind, 0, 0);
  const end = area + (<usize>(count + width) << 2);
  let reach = 1;
  for (; reach << 1 <= width; reach <<= 1) {
    const offset = <usize>reach << 2;
    for (let at = area; at < end; at += 16) v128.store(at, extreme(v128.load(at), v128.load(at + offset), isLeast));
  }
  const offset = <usize>(width - reach) << 2;
  for (let i: usize = 0, bytes = <usize>count << 2; i < bytes; i += 16) {
    v128.store(to + i, extreme(v128.load(area + i), v128.load(area + i + offset), isLeast));
  }
}

@inline
function extreme(a: v128, b: v128, isLeast: bool): v128 {
  return isLeast ? f32x4.pmin(a, b) : f32x4.pmax(a, b);
}

/** Of an odd number of values around each, those outside counted as the nearest within. In place. */
function slideMean(values: usize, count: i32, width: i32): void {
  if (width === 1) return;
  const half = width >> 1;
  spread(values, count, half, half, load<f32>(values), load<f32>(values + (<usize>(count - 1) << 2)));
  const bytes = <usize>count << 2;
  const end = area + (<usize>(count + width) << 2);
  const share = f32x4.splat(<f32>(1.0 / <f64>width));
  let passed: usize = 0;
  let isFirst = true;
  for (let reach = 1; reach <= width; reach <<= 1) {
    if (width & reach) {
      const from = area + passed;
      for (let i: usize = 0; i < bytes; i += 16) {
        const own = f32x4.mul(v128.load(from + i), share);
        v128.store(values + i, isFirst ? own : f32x4.add(v128.load(values + i), own));
      }
      isFirst = false;
      passed += <usize>reach << 2;
    }
    const offset = <usize>reach << 2;
    for (let at = area; at < end; at += 16) v128.store(at, f32x4.add(v128.load(at), v128.load(at + offset)));
  }
}

function isNothing(values: usize, count: i32): bool {
  for (const end = values + (<usize>count << 2); values < end; values += 4) if (load<f32>(values) > 0) return false;
  return true;
}

/**
 * @param asked by how many dB each node is over the ceiling; what the reductions are put to has room for as many, and
 * either for a vector more
 */
export function curveStretch(
  asked: usize,
  curve: usize,
  floor: usize,
  count: i32,
  reach: i32,
  gap: i32,
  least: i32,
  widened: i32,
  floorWidth: i32,
  width0: i32,
  width1: i32,
  width2: i32,
  decay: f64,
  negligible: f64,
): void {
  const gapBefore = gap >> 1;
  const gapBehind = gap - gapBefore;
  const before = least >> 1;
  const behind = least - before;
  slideMax(asked, floor, count, gapBefore, gapBehind);
  // Two windows one behind the other are one that is as wide as both.
  slideMin(floor, floor, count, gapBehind + before, gapBefore + behind);
  if (!isNothing(floor, count)) {
    slideMax(floor, floor, count, behind + widened, before + widened);
    slideMean(floor, count, floorWidth);
    slideMean(floor, count, floorWidth);
  }
  slideMax(asked, curve, count, reach, reach);
  // In f64, since a long release is many steps.
  let previous: f64 = 0;
  for (let i: usize = 0, bytes = <usize>count << 2; i < bytes; i += 4) {
    previous = max(previous * decay, <f64>max(load<f32>(curve + i), load<f32>(floor + i)));
    if (previous < negligible) previous = 0;
    store<f32>(curve + i, <f32>previous);
  }
  slideMean(curve, count, width0);
  slideMean(curve, count, width1);
  slideMean(curve, count, width2);
}

/* 2^x between 0 and 1, as the polynomial through Chebyshev's nodes: exact to 1.1e-7. */
const P0: f32 = 0.9999999;
const P1: f32 = 0.69315449;
const P2: f32 = 0.24014182;
const P3: f32 = 0.055860337;
const P4: f32 = 0.0089495904;
const P5: f32 = 0.0018937541;
/** An eighth of a dB as a power of two: −log₂(10) / 80. */
const EXPONENT: f32 = -0.04152410118609203;

/** 1 − 10^(−a/80) for four sums of eighths of a dB. */
@inline
function lostShare(eighths: v128): v128 {
  const x = f32x4.mul(eighths, f32x4.splat(EXPONENT));
  const whole = f32x4.floor(x);
  const f = f32x4.sub(x, whole);
  let p = f32x4.add(f32x4.mul(f32x4.splat(P5), f), f32x4.splat(P4));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(P3));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(P2));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(P1));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(P0));
  const scale = i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23);
  return f32x4.sub(f32x4.splat(1), f32x4.mul(p, scale));
}

/**
 * core/limiter/forecast: what nodes lose, for each span between two edges their weighted energy, and in all their plain one.
 *
 * @param lost for each span as f64, and behind them the plain one; what is loaded has room for a vector more
 */
export function lose(
  reductions: usize,
  weighted: usize,
  plain: usize,
  edges: usize,
  spans: i32,
  lost: usize,
): void {
  let allPlain: f64 = 0;
  for (let span = 0; span < spans; span++, edges += 4, lost += 8) {
    const to = load<i32>(edges, 4);
    let k = load<i32>(edges);
    let sum = f32x4.splat(0);
    let plainSum = sum;
    for (; k + 4 <= to; k += 4) {
      const at = <usize>k << 2;
      const share = shareAt(reductions + at);
      sum = f32x4.add(sum, f32x4.mul(share, v128.load(weighted + at)));
      plainSum = f32x4.add(plainSum, f32x4.mul(share, v128.load(plain + at)));
    }
    let total = across4(sum);
    allPlain += across4(plainSum);
    if (k < to) {
      const at = <usize>k << 2;
      const share = shareAt(reductions + at);
      const ofWeighted = f32x4.mul(share, v128.load(weighted + at));
      const ofPlain = f32x4.mul(share, v128.load(plain + at));
      for (let lane = 0; k < to; k++, lane++) {
        total += <f64>laneOf(ofWeighted, lane);
        allPlain += <f64>laneOf(ofPlain, lane);
      }
    }
    store<f64>(lost, total);
  }
  store<f64>(lost, allPlain);
}

@inline
function shareAt(reductions: usize): v128 {
  const first = v128.load(reductions);
  const second = v128.load(reductions, 4);
  const sum = f32x4.add(first, second);
  const least = f32x4.pmin(first, second);
  const eighths = f32x4.add(f32x4.add(sum, f32x4.add(sum, sum)), f32x4.add(least, least));
  // Where nothing is turned down nothing is lost, not even a rounding.
  return v128.and(lostShare(eighths), f32x4.gt(eighths, f32x4.splat(0)));
}

@inline
function across4(x: v128): f64 {
  return (
    <f64>f32x4.extract_lane(x, 0) +
    <f64>f32x4.extract_lane(x, 1) +
    <f64>f32x4.extract_lane(x, 2) +
    <f64>f32x4.extract_lane(x, 3)
  );
}

@inline
function laneOf(x: v128, lane: i32): f32 {
  if (lane == 0) return f32x4.extract_lane(x, 0);
  return lane == 1 ? f32x4.extract_lane(x, 1) : f32x4.extract_lane(x, 2);
}
