import { gridFrame, LANES, laneOf, Quad, TICKS_PER_SECOND } from './quad';
import { promoteHigh } from './vectors';

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
 * core/loudness/k-weighting and channel-energy, and the sums of core/peak/sample-statistics: four channels in the lanes
 * of one chain of f32.
 *
 * Both filters are kept by differences: with v₁ and v₂ earlier states, h = v₂ and d = v₁ − v₂, and u is what the next
 * state adds to the line through both. Of the high-pass's numerator, a second difference, one half is taken first, where
 * it is exact for what is slow, and the other is d itself. So no state holds an offset, what is below hearing leaves no
 * error behind, and no output is a difference of great numbers.
 */
export function weigh(at: usize, count: i32): void {
  const quad = changetype<Quad>(at);
  const shelfLevel = v128.load(filter);
  const shelfSlope = v128.load(filter, 16);
  const outLevel = v128.load(filter, 32);
  const outSlope = v128.load(filter, 48);
  const passLevel = v128.load(filter, 64);
  const passSlope = v128.load(filter, 80);
  let x1 = quad.x1;
  let h = quad.h;
  let d = quad.d;
  let g = quad.g;
  let z = quad.z;
  let tickEnd = quad.tickEnd;
  let frame = quad.frame;
  let left = count;
  let sample = quad.samples;
  while (left > 0) {
    const run = min<i32>(left, <i32>min<i64>(STRIDE_FRAMES - frame % STRIDE_FRAMES, tickEnd - frame));
    addUp(quad, sample, run);
    let energy = f32x4.splat(0);
    for (const until = sample + (run << 4); sample < until; sample += 16) {
      const x = v128.load(sample);
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
    quad.energy = f64x2.add(quad.energy, f64x2.promote_low_f32x4(energy));
    quad.energy2 = f64x2.add(quad.energy2, promoteHigh(energy));
    if (frame == tickEnd) {
      closeTick(quad);
      tickEnd = quad.tickEnd;
      h = settled(h);
      d = settled(d);
      g = settled(g);
      z = settled(z);
    }
  }
  quad.x1 = x1;
  quad.h = h;
  quad.d = d;
  quad.g = g;
  quad.z = z;
}

/** core/peak/sample-statistics: sums of samples and squares; apart from the filters, whose loop has no vectors to spare. */
function addUp(quad: Quad, at: usize, count: i32): void {
  let squares = f32x4.splat(0);
  let sum = squares;
  const end = at + (count << 4);
  for (const whole = at + ((count & ~3) << 4); at < whole; at += 64) {
    const a = v128.load(at);
    const b = v128.load(at, 16);
    const c = v128.load(at, 32);
    const d = v128.load(at, 48);
    sum = f32x4.add(sum, f32x4.add(f32x4.add(a, b), f32x4.add(c, d)));
    squares = f32x4.add(squares, f32x4.add(f32x4.add(square(a), square(b)), f32x4.add(square(c), square(d))));
  }
  for (; at < end; at += 16) {
    const x = v128.load(at);
    sum = f32x4.add(sum, x);
    squares = f32x4.add(squares, square(x));
  }
  quad.squares = f64x2.add(quad.squares, f64x2.promote_low_f32x4(squares));
  quad.squares2 = f64x2.add(quad.squares2, promoteHigh(squares));
  quad.sum = f64x2.add(quad.sum, f64x2.promote_low_f32x4(sum));
  quad.sum2 = f64x2.add(quad.sum2, promoteHigh(sum));
}

@inline
function square(x: v128): v128 {
  return f32x4.mul(x, x);
}

function closeTick(quad: Quad): void {
  const energies = changetype<usize>(quad) + offsetof<Quad>('energy');
  const squares = changetype<usize>(quad) + offsetof<Quad>('squares');
  for (let i = 0; i < LANES; i++) {
    const lane = laneOf(quad, i);
    store<f64>(lane.ticks + (quad.tickCount << 3), load<f64>(energies + (i << 3)) * power);
    store<f64>(lane.squares + (quad.tickCount << 3), load<f64>(squares + (i << 3)));
  }
  forgetTick(quad);
  quad.tickCount++;
  quad.tickEnd = gridFrame(quad.tickCount + 1, TICKS_PER_SECOND, quad.rate);
}

export function forgetTick(quad: Quad): void {
  const zero = f64x2.splat(0);
  quad.energy = zero;
  quad.energy2 = zero;
  quad.squares = zero;
  quad.squares2 = zero;
}

@inline
function settled(state: v128): v128 {
  return v128.and(state, f32x4.ge(f32x4.abs(state), f32x4.splat(NEGLIGIBLE)));
}
