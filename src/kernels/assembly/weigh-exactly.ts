import { Channel, gridFrame, TICKS_PER_SECOND } from './channel';

const NEGLIGIBLE: f64 = 1e-30;

/* The filters as weigh has them, in f64. */
let shelfLevel: f64 = 0;
let shelfSlope: f64 = 0;
let outLevel: f64 = 0;
let outSlope: f64 = 0;
let passLevel: f64 = 0;
let passSlope: f64 = 0;
let power: f64 = 0;

export function setExactFilter(
  levelOfShelf: f64,
  slopeOfShelf: f64,
  levelOfOut: f64,
  slopeOfOut: f64,
  levelOfPass: f64,
  slopeOfPass: f64,
  gainSquared: f64,
): void {
  shelfLevel = levelOfShelf;
  shelfSlope = slopeOfShelf;
  outLevel = levelOfOut;
  outSlope = slopeOfOut;
  passLevel = levelOfPass;
  passSlope = slopeOfPass;
  power = gainSquared;
}

/**
 * core/loudness/k-weighting and channel-energy in f64, for what f32 is not good enough for: two channels in the lanes of
 * one chain, with weigh's states and no other sums.
 */
export function weighExactly(first: usize, second: usize, count: i32): void {
  const a = changetype<Channel>(first);
  const b = changetype<Channel>(second);
  const levelOfShelf = f64x2.splat(shelfLevel);
  const slopeOfShelf = f64x2.splat(shelfSlope);
  const levelOfOut = f64x2.splat(outLevel);
  const slopeOfOut = f64x2.splat(outSlope);
  const levelOfPass = f64x2.splat(passLevel);
  const slopeOfPass = f64x2.splat(passSlope);
  let h = lanes(a.exactH, b.exactH);
  let d = lanes(a.exactD, b.exactD);
  let g = lanes(a.exactG, b.exactG);
  let q = lanes(a.exactQ, b.exactQ);
  let energy = lanes(a.tickEnergy, b.tickEnergy);
  let tickEnd = a.tickEnd;
  let tickCount = a.tickCount;
  let atA = a.samples;
  let atB = b.samples;
  let frame = a.frame;
  let left = count;
  while (left > 0) {
    const run = min<i32>(left, <i32>(tickEnd - frame));
    for (const until = atA + (run << 2); atA < until; atA += 4, atB += 4) {
      const x = f64x2.promote_low_f32x4(v128.load_lane<f32>(atB, v128.load_zero<f32>(atA), 1));
      const u = f64x2.sub(f64x2.sub(x, f64x2.mul(levelOfShelf, h)), f64x2.mul(slopeOfShelf, d));
      const y = f64x2.add(f64x2.add(u, f64x2.mul(levelOfOut, h)), f64x2.mul(slopeOfOut, d));
      h = f64x2.add(h, d);
      d = f64x2.add(d, u);
      const z = f64x2.sub(f64x2.sub(y, f64x2.mul(levelOfPass, g)), f64x2.mul(slopeOfPass, q));
      g = f64x2.add(g, q);
      q = f64x2.add(q, z);
      energy = f64x2.add(energy, f64x2.mul(z, z));
    }
    left -= run;
    frame += run;
    if (frame == tickEnd) {
      store<f64>(a.ticks + (tickCount << 3), f64x2.extract_lane(energy, 0) * power);
      store<f64>(b.ticks + (tickCount << 3), f64x2.extract_lane(energy, 1) * power);
      tickCount++;
      tickEnd = gridFrame(tickCount + 1, TICKS_PER_SECOND, a.rate);
      energy = f64x2.splat(0);
      h = settled(h);
      d = settled(d);
      g = settled(g);
      q = settled(q);
    }
  }
  a.tickCount = b.tickCount = tickCount;
  a.tickEnd = b.tickEnd = tickEnd;
  a.exactH = f64x2.extract_lane(h, 0);
  a.exactD = f64x2.extract_lane(d, 0);
  a.exactG = f64x2.extract_lane(g, 0);
  a.exactQ = f64x2.extract_lane(q, 0);
  a.tickEnergy = f64x2.extract_lane(energy, 0);
  b.exactH = f64x2.extract_lane(h, 1);
  b.exactD = f64x2.extract_lane(d, 1);
  b.exactG = f64x2.extract_lane(g, 1);
  b.exactQ = f64x2.extract_lane(q, 1);
  b.tickEnergy = f64x2.extract_lane(energy, 1);
  a.frame += count;
  b.frame = a.frame;
}

@inline
function lanes(a: f64, b: f64): v128 {
  return f64x2.replace_lane(f64x2.splat(a), 1, b);
}

@inline
function settled(state: v128): v128 {
  return v128.and(state, f64x2.ge(f64x2.abs(state), f64x2.splat(NEGLIGIBLE)));
}
