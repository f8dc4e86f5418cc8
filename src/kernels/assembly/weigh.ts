import { Channel, gridFrame, samplesAt, TICKS_PER_SECOND } from './channel';
import { square } from './vectors';

const NEGLIGIBLE: f64 = 1e-30;

/**
 * core/loudness/k-weighting KWeightingFilter and channel-energy: two channels in the lanes of one chain. Their ticks
 * fall together, since they are of one programme.
 */
export function weigh(first: usize, second: usize, count: i32): void {
  const a = changetype<Channel>(first);
  const b = changetype<Channel>(second);
  const b0 = f64x2.splat(a.b0);
  const b1 = f64x2.splat(a.b1);
  const b2 = f64x2.splat(a.b2);
  const a1 = f64x2.splat(a.a1);
  const a2 = f64x2.splat(a.a2);
  const c1 = f64x2.splat(a.c1);
  const c2 = f64x2.splat(a.c2);
  let s1 = lanes(a.s1, b.s1);
  let s2 = lanes(a.s2, b.s2);
  let h1 = lanes(a.h1, b.h1);
  let h2 = lanes(a.h2, b.h2);
  let sum = lanes(a.tickSum, b.tickSum);
  let tick = a.tick;
  let tickCount = 0;
  let atA = samplesAt(a, 0);
  let atB = samplesAt(b, 0);
  let frame = a.frame;
  let left = count;
  while (left > 0) {
    const tickEnd = gridFrame(tick + 1, TICKS_PER_SECOND, a.rate);
    const run = min<i32>(left, <i32>(tickEnd - frame));
    const until = atA + (run << 2);
    for (; atA < until; atA += 4, atB += 4) {
      const x = f64x2.promote_low_f32x4(f32x4.replace_lane(f32x4.splat(load<f32>(atA)), 1, load<f32>(atB)));
      const y = f64x2.add(f64x2.mul(b0, x), s1);
      s1 = f64x2.sub(f64x2.add(f64x2.mul(b1, x), s2), f64x2.mul(a1, y));
      s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
      const z = f64x2.add(y, h1);
      h1 = f64x2.sub(f64x2.sub(h2, f64x2.add(y, y)), f64x2.mul(c1, z));
      h2 = f64x2.sub(y, f64x2.mul(c2, z));
      sum = f64x2.add(sum, square(z));
    }
    left -= run;
    frame += run;
    if (frame == tickEnd) {
      store<f64>(a.ticks + (tickCount << 3), f64x2.extract_lane(sum, 0));
      store<f64>(b.ticks + (tickCount << 3), f64x2.extract_lane(sum, 1));
      tickCount++;
      tick++;
      sum = f64x2.splat(0);
      s1 = settled(s1);
      s2 = settled(s2);
      h1 = settled(h1);
      h2 = settled(h2);
    }
  }
  a.s1 = f64x2.extract_lane(s1, 0);
  a.s2 = f64x2.extract_lane(s2, 0);
  a.h1 = f64x2.extract_lane(h1, 0);
  a.h2 = f64x2.extract_lane(h2, 0);
  a.tickSum = f64x2.extract_lane(sum, 0);
  a.tick = tick;
  a.tickCount = tickCount;
  if (first == second) return;
  b.s1 = f64x2.extract_lane(s1, 1);
  b.s2 = f64x2.extract_lane(s2, 1);
  b.h1 = f64x2.extract_lane(h1, 1);
  b.h2 = f64x2.extract_lane(h2, 1);
  b.tickSum = f64x2.extract_lane(sum, 1);
  b.tick = tick;
  b.tickCount = tickCount;
}

function lanes(a: f64, b: f64): v128 {
  return f64x2.replace_lane(f64x2.splat(a), 1, b);
}

/** A state too small to matter becomes zero, before it is a denormal number that slows every later sample down. */
function settled(state: v128): v128 {
  return v128.and(state, f64x2.ge(f64x2.abs(state), f64x2.splat(NEGLIGIBLE)));
}
