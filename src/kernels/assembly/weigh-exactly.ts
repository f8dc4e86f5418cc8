import { gridFrame, LANES, laneOf, Quad, TICKS_PER_SECOND } from './quad';

const NEGLIGIBLE: f64 = 1e-30;
const PAIRS: usize = LANES / 2;

/** Both filters' coefficients and the square of their gains in f64, each in both lanes of a vector. */
const filter = memory.data(7 * 16, 16);

export function setExactFilter(
  shelfLevel: f64,
  shelfSlope: f64,
  outLevel: f64,
  outSlope: f64,
  passLevel: f64,
  passSlope: f64,
  gainSquared: f64,
): void {
  v128.store(filter, f64x2.splat(shelfLevel));
  v128.store(filter, f64x2.splat(shelfSlope), 16);
  v128.store(filter, f64x2.splat(outLevel), 32);
  v128.store(filter, f64x2.splat(outSlope), 48);
  v128.store(filter, f64x2.splat(passLevel), 64);
  v128.store(filter, f64x2.splat(passSlope), 80);
  v128.store(filter, f64x2.splat(gainSquared), 96);
}

/**
 * core/loudness/k-weighting and channel-energy in f64, for what f32 is not good enough for: two channels at a time in
 * the lanes of one chain, with weigh's states and no other sums.
 */
export function weighExactly(at: usize, count: i32): void {
  const quad = changetype<Quad>(at);
  let done = 0;
  while (done < count) {
    const run = min<i32>(count - done, <i32>(quad.tickEnd - quad.frame));
    for (let pair: usize = 0; pair < PAIRS; pair++) weighPair(quad, pair, done, run);
    done += run;
    quad.frame += run;
    if (quad.frame == quad.tickEnd) {
      for (let pair: usize = 0; pair < PAIRS; pair++) closeTick(quad, pair);
      quad.tickCount++;
      quad.tickEnd = gridFrame(quad.tickCount + 1, TICKS_PER_SECOND, quad.rate);
    }
  }
}

function weighPair(quad: Quad, pair: usize, from: i32, count: i32): void {
  const shelfLevel = v128.load(filter);
  const shelfSlope = v128.load(filter, 16);
  const outLevel = v128.load(filter, 32);
  const outSlope = v128.load(filter, 48);
  const passLevel = v128.load(filter, 64);
  const passSlope = v128.load(filter, 80);
  const state = changetype<usize>(quad) + (pair << 4);
  let h = v128.load(state, offsetof<Quad>('exactH'));
  let d = v128.load(state, offsetof<Quad>('exactD'));
  let g = v128.load(state, offsetof<Quad>('exactG'));
  let q = v128.load(state, offsetof<Quad>('exactQ'));
  let energy = v128.load(state, offsetof<Quad>('energy'));
  let sample = quad.samples + (from << 4) + (pair << 3);
  for (const until = sample + (count << 4); sample < until; sample += 16) {
    const x = f64x2.promote_low_f32x4(v128.load64_zero(sample));
    const drive = f64x2.sub(x, f64x2.mul(shelfLevel, h));
    const past = f64x2.add(f64x2.mul(outLevel, h), f64x2.mul(outSlope, d));
    h = f64x2.add(h, d);
    d = f64x2.sub(f64x2.add(d, drive), f64x2.mul(shelfSlope, d));
    const shelved = f64x2.add(past, d);
    const bend = f64x2.sub(f64x2.sub(shelved, f64x2.mul(passLevel, g)), f64x2.mul(passSlope, q));
    g = f64x2.add(g, q);
    q = f64x2.add(q, bend);
    energy = f64x2.add(energy, f64x2.mul(bend, bend));
  }
  v128.store(state, h, offsetof<Quad>('exactH'));
  v128.store(state, d, offsetof<Quad>('exactD'));
  v128.store(state, g, offsetof<Quad>('exactG'));
  v128.store(state, q, offsetof<Quad>('exactQ'));
  v128.store(state, energy, offsetof<Quad>('energy'));
}

function closeTick(quad: Quad, pair: usize): void {
  const state = changetype<usize>(quad) + (pair << 4);
  const energies = f64x2.mul(v128.load(state, offsetof<Quad>('energy')), v128.load(filter, 96));
  const at = quad.tickCount << 3;
  const first = <i32>pair << 1;
  store<f64>(laneOf(quad, first).ticks + at, f64x2.extract_lane(energies, 0));
  store<f64>(laneOf(quad, first + 1).ticks + at, f64x2.extract_lane(energies, 1));
  v128.store(state, f64x2.splat(0), offsetof<Quad>('energy'));
  settle(state + offsetof<Quad>('exactH'));
  settle(state + offsetof<Quad>('exactD'));
  settle(state + offsetof<Quad>('exactG'));
  settle(state + offsetof<Quad>('exactQ'));
}

@inline
function settle(at: usize): void {
  const state = v128.load(at);
  v128.store(at, v128.and(state, f64x2.ge(f64x2.abs(state), f64x2.splat(NEGLIGIBLE))));
}
