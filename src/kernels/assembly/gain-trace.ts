/** core/limiter/gain-trace for one stretch, in f32: windows grow by doubling, four nodes at a time. */

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
  const width = before + behind + 1;
  spread(from, count, before, behind, 0, 0);
  const end = area + (<usize>(count + width) << 2);
  let reach = 1;
  for (; reach << 1 <= width; reach <<= 1) {
    const offset = <usize>reach << 2;
    for (let at = area; at < end; at += 16) v128.store(at, f32x4.pmax(v128.load(at), v128.load(at + offset)));
  }
  const offset = <usize>(width - reach) << 2;
  for (let i: usize = 0, bytes = <usize>count << 2; i < bytes; i += 16) {
    v128.store(to + i, f32x4.pmax(v128.load(area + i), v128.load(area + i + offset)));
  }
}

function slideMin(from: usize, to: usize, count: i32, before: i32, behind: i32): void {
  const width = before + behind + 1;
  spread(from, count, before, behind, 0, 0);
  const end = area + (<usize>(count + width) << 2);
  let reach = 1;
  for (; reach << 1 <= width; reach <<= 1) {
    const offset = <usize>reach << 2;
    for (let at = area; at < end; at += 16) v128.store(at, f32x4.pmin(v128.load(at), v128.load(at + offset)));
  }
  const offset = <usize>(width - reach) << 2;
  for (let i: usize = 0, bytes = <usize>count << 2; i < bytes; i += 16) {
    v128.store(to + i, f32x4.pmin(v128.load(area + i), v128.load(area + i + offset)));
  }
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
export function traceStretch(
  asked: usize,
  trace: usize,
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
  slideMax(asked, trace, count, reach, reach);
  // In f64, since a long release is many steps.
  let previous: f64 = 0;
  for (let i: usize = 0, bytes = <usize>count << 2; i < bytes; i += 4) {
    previous = max(previous * decay, <f64>max(load<f32>(trace + i), load<f32>(floor + i)));
    if (previous < negligible) previous = 0;
    store<f32>(trace + i, <f32>previous);
  }
  slideMean(trace, count, width0);
  slideMean(trace, count, width1);
  slideMean(trace, count, width2);
}
