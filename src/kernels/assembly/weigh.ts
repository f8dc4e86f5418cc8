import { FRAME_SHIFT, gridFrame, LANES, laneOf, Quad, TICKS_PER_SECOND } from './quad';
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
  shelfKept: f32,
  outLevel: f32,
  outSlope: f32,
  passLevel: f32,
  passSlope: f32,
  gainSquared: f64,
): void {
  v128.store(filter, f32x4.splat(shelfLevel));
  v128.store(filter, f32x4.splat(shelfKept), 16);
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
 * Both filters are kept by differences: with v₁ and v₂ earlier states, h = v₂ and d = v₁ − v₂ of the shelf, g and z of
 * the high-pass. Of the high-pass's numerator, a second difference, one half is taken first, where it is exact for what is
 * slow, and the other is z itself, the output. So no state holds an offset, what is below hearing leaves no error behind,
 * and no output is a difference of great numbers. The shelf passes its input on and adds what its states make of it, so
 * that neither its output nor the next state waits for the other. So few values are held that V8 keeps all states in
 * registers, and only sums and two coefficients on the stack.
 *
 * @param from the first of them, counted from the piece's start
 */
export function weighFrames(quad: Quad, from: i32, count: i32): void {
  const shelfLevel = v128.load(filter);
  const shelfKept = v128.load(filter, 16);
  const outLevel = v128.load(filter, 32);
  const outSlope = v128.load(filter, 48);
  const passLevel = v128.load(filter, 64);
  const passSlope = v128.load(filter, 80);
  let h = quad.h;
  let d = quad.d;
  let g = quad.g;
  let z = quad.z;
  let tickEnd = quad.tickEnd;
  let frame = quad.frame + from;
  let left = count;
  let sample = quad.samples + (from << FRAME_SHIFT);
  while (left > 0) {
    const run = min<i32>(left, <i32>min<i64>(STRIDE_FRAMES - frame % STRIDE_FRAMES, tickEnd - frame));
    let energy = f32x4.splat(0);
    let squares = energy;
    let sum = energy;
    for (const until = sample + (run << 4); sample < until; sample += 16) {
      const x = v128.load(sample);
      sum = f32x4.add(sum, x);
      squares = f32x4.add(squares, f32x4.mul(x, x));
      const step = f32x4.sub(x, v128.load(sample - 16));
      const drive = f32x4.sub(step, f32x4.mul(shelfLevel, h));
      const shelved = f32x4.add(step, f32x4.add(f32x4.mul(outLevel, h), f32x4.mul(outSlope, d)));
      h = f32x4.add(h, d);
      d = f32x4.add(f32x4.mul(shelfKept, d), drive);
      const rise = f32x4.sub(shelved, f32x4.mul(passLevel, g));
      g = f32x4.add(g, z);
      z = f32x4.sub(f32x4.add(z, rise), f32x4.mul(passSlope, z));
      energy = f32x4.add(energy, f32x4.mul(z, z));
    }
    left -= run;
    frame += run;
    quad.energy = f64x2.add(quad.energy, f64x2.promote_low_f32x4(energy));
    quad.energy2 = f64x2.add(quad.energy2, promoteHigh(energy));
    quad.squares = f64x2.add(quad.squares, f64x2.promote_low_f32x4(squares));
    quad.squares2 = f64x2.add(quad.squares2, promoteHigh(squares));
    quad.sum = f64x2.add(quad.sum, f64x2.promote_low_f32x4(sum));
    quad.sum2 = f64x2.add(quad.sum2, promoteHigh(sum));
    if (frame == tickEnd) {
      closeTick(quad);
      tickEnd = quad.tickEnd;
      h = settled(h);
      d = settled(d);
      g = settled(g);
      z = settled(z);
    }
  }
  quad.h = h;
  quad.d = d;
  quad.g = g;
  quad.z = z;
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
