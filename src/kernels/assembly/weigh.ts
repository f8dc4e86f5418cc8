import { Channel, gridFrame, TICKS_PER_SECOND } from './channel';

/** A state too small to matter becomes zero, before it is a denormal number that slows every later sample down. */
const NEGLIGIBLE: f32 = 1e-20;
/** Frames of the grid on which sums in f32 go to sums in f64. Pieces are cut on it, so that no sum depends on the cut. */
const STRIDE_FRAMES: i64 = 64;

/** The filters' coefficients, each in all lanes of a vector: one that is loaded stays out of the loop. */
const filter = memory.data(6 * 16, 16);
/** The square of both filters' gains. */
let power: f64 = 0;

/** Shelf and high-pass by differences, without gains, and the square of both gains. */
export function setFilter(
  shelfLevel: f32,
  shelfSlope: f32,
  outLevel: f32,
  outSlope: f32,
  passLevel: f32,
  passSlope: f32,
  gainSquared: f64,
): void {
  v128.store(filter, f32x4.splat(shelfLevel));
  v128.store(filter, f32x4.splat(shelfSlope), 16);
  v128.store(filter, f32x4.splat(outLevel), 32);
  v128.store(filter, f32x4.splat(outSlope), 48);
  v128.store(filter, f32x4.splat(passLevel), 64);
  v128.store(filter, f32x4.splat(passSlope), 80);
  power = gainSquared;
}

/**
 * core/loudness/k-weighting and channel-energy, and the sums of core/peak/sample-statistics: four channels, of one
 * programme or of segments that run side by side, in the lanes of one chain of f32. Their ticks fall together.
 *
 * Both filters are kept by differences: with v₁ and v₂ earlier states, h = v₂ and d = v₁ − v₂, and u is what the next
 * state adds to the line through both. Of the high-pass's numerator, a second difference, one half is taken first, where
 * it is exact for what is slow, and the other is d itself. So no state holds an offset, what is below hearing leaves no
 * error behind, and no output is a difference of great numbers.
 */
export function weigh(p0: usize, p1: usize, p2: usize, p3: usize, count: i32): void {
  const a = changetype<Channel>(p0);
  const b = changetype<Channel>(p1);
  const c = changetype<Channel>(p2);
  const e = changetype<Channel>(p3);
  const shelfLevel = v128.load(filter);
  const shelfSlope = v128.load(filter, 16);
  const outLevel = v128.load(filter, 32);
  const outSlope = v128.load(filter, 48);
  const passLevel = v128.load(filter, 64);
  const passSlope = v128.load(filter, 80);
  const zero = f32x4.splat(0);
  let x1 = lanes(a.x1, b.x1, c.x1, e.x1);
  let h = lanes(a.h, b.h, c.h, e.h);
  let d = lanes(a.d, b.d, c.d, e.d);
  let g = lanes(a.g, b.g, c.g, e.g);
  let z = lanes(a.z, b.z, c.z, e.z);
  let tickEnd = a.tickEnd;
  let tickCount = a.tickCount;
  let frame = a.frame;
  let left = count;
  let offset: usize = 0;
  let at = turned;
  while (left > 0) {
    if (frame % STRIDE_FRAMES == 0 || left == count) {
      const begun = <i32>(frame % STRIDE_FRAMES);
      const frames = min<i32>(left, <i32>STRIDE_FRAMES - begun);
      turn(a.samples + offset, b.samples + offset, c.samples + offset, e.samples + offset, frames);
      offset += frames << 2;
      at = turned;
    }
    const run = min<i32>(left, <i32>min<i64>(STRIDE_FRAMES - frame % STRIDE_FRAMES, tickEnd - frame));
    let energy = zero;
    let squares = zero;
    let sum = zero;
    for (const until = at + (run << 4); at < until; at += 16) {
      const x = v128.load(at);
      sum = f32x4.add(sum, x);
      squares = f32x4.add(squares, f32x4.mul(x, x));
      const step = f32x4.sub(x, x1);
      x1 = x;
      const u = f32x4.sub(f32x4.sub(step, f32x4.mul(shelfLevel, h)), f32x4.mul(shelfSlope, d));
      const y = f32x4.add(f32x4.add(u, f32x4.mul(outLevel, h)), f32x4.mul(outSlope, d));
      h = f32x4.add(h, d);
      d = f32x4.add(d, u);
      const w = f32x4.sub(f32x4.sub(y, f32x4.mul(passLevel, g)), f32x4.mul(passSlope, z));
      g = f32x4.add(g, z);
      z = f32x4.add(z, w);
      energy = f32x4.add(energy, f32x4.mul(z, z));
    }
    left -= run;
    frame += run;
    addTo(a, b, energy, squares, sum);
    addTo(c, e, upper(energy), upper(squares), upper(sum));
    if (frame == tickEnd) {
      closeTick(a, tickCount);
      closeTick(b, tickCount);
      closeTick(c, tickCount);
      closeTick(e, tickCount);
      tickCount++;
      tickEnd = gridFrame(tickCount + 1, TICKS_PER_SECOND, a.rate);
      h = settled(h);
      d = settled(d);
      g = settled(g);
      z = settled(z);
    }
  }
  a.tickCount = b.tickCount = c.tickCount = e.tickCount = tickCount;
  a.tickEnd = b.tickEnd = c.tickEnd = e.tickEnd = tickEnd;
  v128.store(states, x1);
  v128.store(states, h, 16);
  v128.store(states, d, 32);
  v128.store(states, g, 48);
  v128.store(states, z, 64);
  keep(a, 0);
  keep(b, 4);
  keep(c, 8);
  keep(e, 12);
}

/** Where the samples of a stride stand frame by frame, each channel's in its lane. */
const turned = memory.data(64 * 16, 16);

/** Turns up to a stride of four channels, four frames at a time; the last may be more than were asked for. */
function turn(at0: usize, at1: usize, at2: usize, at3: usize, frames: i32): void {
  for (let to = turned; to < turned + (frames << 4); to += 64, at0 += 16, at1 += 16, at2 += 16, at3 += 16) {
    const x0 = v128.load(at0);
    const x1 = v128.load(at1);
    const x2 = v128.load(at2);
    const x3 = v128.load(at3);
    const low01 = i8x16.shuffle(x0, x1, 0, 1, 2, 3, 16, 17, 18, 19, 4, 5, 6, 7, 20, 21, 22, 23);
    const low23 = i8x16.shuffle(x2, x3, 0, 1, 2, 3, 16, 17, 18, 19, 4, 5, 6, 7, 20, 21, 22, 23);
    const high01 = i8x16.shuffle(x0, x1, 8, 9, 10, 11, 24, 25, 26, 27, 12, 13, 14, 15, 28, 29, 30, 31);
    const high23 = i8x16.shuffle(x2, x3, 8, 9, 10, 11, 24, 25, 26, 27, 12, 13, 14, 15, 28, 29, 30, 31);
    v128.store(to, i8x16.shuffle(low01, low23, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23));
    v128.store(to, i8x16.shuffle(low01, low23, 8, 9, 10, 11, 12, 13, 14, 15, 24, 25, 26, 27, 28, 29, 30, 31), 16);
    v128.store(to, i8x16.shuffle(high01, high23, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23), 32);
    v128.store(to, i8x16.shuffle(high01, high23, 8, 9, 10, 11, 12, 13, 14, 15, 24, 25, 26, 27, 28, 29, 30, 31), 48);
  }
}

/** Adds the sums of a stride, in the lower two lanes, to those of two channels. */
@inline
function addTo(first: Channel, second: Channel, energy: v128, squares: v128, sum: v128): void {
  const energies = f64x2.promote_low_f32x4(energy);
  const allSquares = f64x2.promote_low_f32x4(squares);
  const sums = f64x2.promote_low_f32x4(sum);
  first.tickEnergy += f64x2.extract_lane(energies, 0);
  second.tickEnergy += f64x2.extract_lane(energies, 1);
  first.tickSquares += f64x2.extract_lane(allSquares, 0);
  second.tickSquares += f64x2.extract_lane(allSquares, 1);
  first.sum += f64x2.extract_lane(sums, 0);
  second.sum += f64x2.extract_lane(sums, 1);
}

function closeTick(channel: Channel, tick: i32): void {
  store<f64>(channel.ticks + (tick << 3), channel.tickEnergy * power);
  store<f64>(channel.squares + (tick << 3), channel.tickSquares);
  channel.tickEnergy = 0;
  channel.tickSquares = 0;
}

/** Where the filters' states of all lanes are put, to be told apart. */
const states = memory.data(5 * 16, 16);

@inline
function keep(channel: Channel, lane: usize): void {
  channel.x1 = load<f32>(states + lane);
  channel.h = load<f32>(states + lane, 16);
  channel.d = load<f32>(states + lane, 32);
  channel.g = load<f32>(states + lane, 48);
  channel.z = load<f32>(states + lane, 64);
}

@inline
function lanes(a: f32, b: f32, c: f32, d: f32): v128 {
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(a), 1, b), 2, c), 3, d);
}

@inline
function upper(x: v128): v128 {
  return i8x16.shuffle(x, x, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15);
}

@inline
function settled(state: v128): v128 {
  return v128.and(state, f32x4.ge(f32x4.abs(state), f32x4.splat(NEGLIGIBLE)));
}
