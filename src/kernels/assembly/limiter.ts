/**
 * The limiter's hot loops: the true peaks of a programme's nodes (core/limiter/peak-envelope), and what its gain changes
 * within them (core/limiter/fine-energy). Samples are planar f32; the loader lays out the memory and streams.
 */
import { READING_BEFORE, readPeak } from './peak-reading';
import { greatest, magnitudeOf } from './vectors';

export { lose, setArea, curveStretch } from './gain-curve';
export { setReading } from './peak-reading';

/** Phase pairs are taken four at a time: a mirrored pair is E ± O, of which the greater magnitude is |E| + |O|. */
const GROUPS: i32 = 2;
const LONG_HALF: i32 = 32;
const SHORT_HALF: i32 = 16;
const LONG_BEFORE: i32 = 31;
const LONG_BEHIND: i32 = 32;
/** A tap of a group: its four even parts, then its four odd ones. */
const TAP_BYTES: usize = 32;
const BLOCK_SHIFT: i32 = 4;
const BLOCK: i32 = 1 << BLOCK_SHIFT;
/** Bounds are computed in f32: they are widened by more than the rounding. */
const ROUNDING_GUARD: f32 = 1.00001;
const CURVATURE_GUARD: f32 = 1e-6;

let long: usize = 0;
let short: usize = 0;
/** For the curvature around each of the frames from 30 before on, the greatest weight that any phase gives to it. */
let weights: usize = 0;
const WEIGHTS: i32 = 62;
const WEIGHTS_BEFORE: i32 = 30;
let l1Norm: f32 = 0;
/** What is found at each frame of a node. */
let found: usize = 0;
/** As in core/limiter/peak-envelope: how near to a node's greatest a peak is read too. */
const NEARLY_GREATEST: f32 = 0.95;

/** Sums and differences of mirrored samples around four frames. */
const sums = memory.data(32 * 16, 16);
const differences = memory.data(32 * 16, 16);
/** The first so many lanes of a vector. */
const masks = memory.data<i32>([0, 0, 0, 0, -1, 0, 0, 0, -1, -1, 0, 0, -1, -1, -1, 0, -1, -1, -1, -1], 16);

export function setTables(longAt: usize, shortAt: usize, weightsAt: usize, l1: f32, foundAt: usize): void {
  found = foundAt;
  long = longAt;
  short = shortAt;
  weights = weightsAt;
  l1Norm = l1;
  weighBlocks();
}

/** Of each block beside a frame's own, from two before to two behind, the most that its weights can add up to. */
const BLOCKS_AROUND: i32 = 2;
const blockWeights = memory.data(5 * 4, 16);

/** Spreads the weights over blocks, for whichever place in its block a frame has. */
function weighBlocks(): void {
  for (let beside = -BLOCKS_AROUND; beside <= BLOCKS_AROUND; beside++) {
    let most: f32 = 0;
    for (let place = 0; place < BLOCK; place++) {
      let sum: f32 = 0;
      for (let i = 0; i < WEIGHTS; i++) {
        if ((place + i - WEIGHTS_BEFORE) >> BLOCK_SHIFT == beside) sum += load<f32>(weights + (<usize>i << 2));
      }
      most = max(most, sum);
    }
    store<f32>(blockWeights + (<usize>(beside + BLOCKS_AROUND) << 2), most);
  }
}

/**
 * The curvature around each sample; and of each block of 16, by how much what is between its samples may reach beyond
 * them, and what nothing in it or between it and the next can exceed.
 *
 * @param samples of the first block; one sample before and one behind the last block are readable
 * @param magnitudes and `curvatures`, the greatest of each block; `roundings`, what curvatures may be off by
 */
export function survey(
  samples: usize,
  blocks: i32,
  bends: usize,
  magnitudes: usize,
  curvatures: usize,
  roundings: usize,
  reaches: usize,
  bounds: usize,
): void {
  const first = samples;
  for (let block = 0; block < blocks; block++) {
    let magnitude = f32x4.splat(0);
    let curvature = magnitude;
    for (let i = 0; i < BLOCK; i += 4, samples += 16, bends += 16) {
      const middle = v128.load(samples);
      magnitude = f32x4.pmax(magnitude, magnitudeOf(middle));
      const bend = magnitudeOf(
        f32x4.sub(f32x4.add(v128.load(samples - 4), v128.load(samples, 4)), f32x4.add(middle, middle)),
      );
      v128.store(bends, bend);
      curvature = f32x4.pmax(curvature, bend);
    }
    store<f32>(magnitudes + (block << 2), greatest(magnitude));
    store<f32>(curvatures + (block << 2), greatest(curvature));
  }
  for (let block = 0; block < blocks; block++) {
    let magnitude: f32 = 0;
    let reach: f32 = 0;
    const last = min(blocks - 1, block + BLOCKS_AROUND);
    for (let other = max(0, block - BLOCKS_AROUND); other <= last; other++) {
      magnitude = max(magnitude, load<f32>(magnitudes + (other << 2)));
      const weight = load<f32>(blockWeights + (<usize>(other - block + BLOCKS_AROUND) << 2));
      reach += weight * load<f32>(curvatures + (other << 2));
    }
    const rounding = magnitude * CURVATURE_GUARD;
    reach += rounding;
    const next = abs(load<f32>(first + (<usize>(block + 1) << (BLOCK_SHIFT + 2))));
    const byCurvature = max(load<f32>(magnitudes + (block << 2)), next) + reach;
    store<f32>(roundings + (block << 2), rounding);
    store<f32>(reaches + (block << 2), reach);
    store<f32>(bounds + (block << 2), min(byCurvature, magnitude * l1Norm) * ROUNDING_GUARD);
  }
}

/**
 * Raises consecutive nodes of `width` frames by the true peaks of one channel: at their frames, and between each and the
 * next.
 *
 * @param buffer that has been surveyed, from its first sample on
 * @param from first frame of the first node in the buffer, 164 or more; 163 samples behind the last have been surveyed
 * @param least what need not be told apart from less
 */
export function searchNodes(
  buffer: usize,
  bends: usize,
  roundings: usize,
  reaches: usize,
  bounds: usize,
  from: i32,
  width: i32,
  nodes: usize,
  count: i32,
  least: f32,
): void {
  for (let k = 0; k < count; k++, from += width, nodes += 4) {
    const last = (from + width - 1) >> BLOCK_SHIFT;
    let bound: f32 = 0;
    for (let block = from >> BLOCK_SHIFT; block <= last; block++) bound = max(bound, load<f32>(bounds + (block << 2)));
    const node = load<f32>(nodes);
    if (bound > NEARLY_GREATEST * max(node, least)) {
      store<f32>(nodes, searchNode(buffer, bends, roundings, reaches, from, from + width, node, least));
    }
  }
}

function searchNode(
  buffer: usize,
  bends: usize,
  roundings: usize,
  reaches: usize,
  from: i32,
  to: i32,
  peak: f32,
  least: f32,
): f32 {
  // The samples themselves first: what is between them is searched only where it may be more.
  let samplePeak = f32x4.splat(0);
  for (let i = from; i < to; i += 4) {
    const mask = v128.load(masks + (<usize>min(4, to - i) << 4));
    samplePeak = f32x4.pmax(samplePeak, v128.and(mask, magnitudeOf(v128.load(buffer + (i << 2)))));
  }
  let node = max(peak, greatest(samplePeak));
  let most = max(node, least);
  for (let i = from, into = found; i < to; i += 4, into += 16) {
    const at = buffer + (i << 2);
    const mask = v128.load(masks + (<usize>min(4, to - i) << 4));
    const own = magnitudeOf(v128.load(at));
    const nearest = f32x4.pmax(own, magnitudeOf(v128.load(at, 4)));
    v128.store(into, f32x4.splat(0));
    const beaten = NEARLY_GREATEST * most;
    if (!mayBeat(nearest, f32x4.splat(greaterOf(reaches, i)), beaten, mask)) continue;
    const rounding = f32x4.splat(greaterOf(roundings, i));
    if (!mayBeat(nearest, f32x4.add(reachesOf(bends + (i << 2)), rounding), beaten, mask)) continue;
    const values = v128.and(mask, f32x4.pmax(own, between(at)));
    v128.store(into, values);
    node = max(node, greatest(values));
    most = max(most, node);
  }
  for (let at = found, i = from; i < to; at += 4, i++) {
    if (load<f32>(at) <= NEARLY_GREATEST * most) continue;
    node = max(node, <f32>readPeak(buffer + (<usize>(i - READING_BEFORE) << 2), 4, 0));
  }
  return node;
}

/** The greater of the values that a table has for the blocks of four samples. */
@inline
function greaterOf(table: usize, sample: i32): f32 {
  const first = load<f32>(table + (<usize>(sample >> BLOCK_SHIFT) << 2));
  return max(first, load<f32>(table + (<usize>((sample + 3) >> BLOCK_SHIFT) << 2)));
}

@inline
function mayBeat(nearest: v128, reach: v128, beaten: f32, mask: v128): bool {
  const bound = f32x4.mul(f32x4.add(nearest, reach), f32x4.splat(ROUNDING_GUARD));
  return v128.any_true(v128.and(mask, f32x4.gt(bound, f32x4.splat(beaten))));
}

/** How far what is between each of four frames and the next may reach beyond both, by the curvature around them. */
function reachesOf(bend: usize): v128 {
  let first = f32x4.splat(0);
  let second = first;
  bend -= <usize>WEIGHTS_BEFORE << 2;
  let at = weights;
  for (const end = at + (<usize>WEIGHTS << 2); at < end; at += 8, bend += 8) {
    first = f32x4.add(first, f32x4.mul(v128.load(bend), v128.load32_splat(at)));
    second = f32x4.add(second, f32x4.mul(v128.load(bend, 4), v128.load32_splat(at, 4)));
  }
  return f32x4.add(first, second);
}

/** Greatest magnitude between each of four frames and the next, by either filter. */
function between(at: usize): v128 {
  for (let i = 0; i < LONG_HALF; i++) {
    const left = v128.load(at + ((i - LONG_BEFORE) << 2));
    const right = v128.load(at + ((LONG_BEHIND - i) << 2));
    v128.store(sums + (i << 4), f32x4.add(left, right));
    v128.store(differences + (i << 4), f32x4.sub(left, right));
  }
  let peak = f32x4.splat(0);
  for (let group = 0; group < GROUPS; group++) {
    peak = f32x4.pmax(peak, ofGroup(long + <usize>group * LONG_HALF * TAP_BYTES, 0, LONG_HALF));
    peak = f32x4.pmax(peak, ofGroup(short + <usize>group * SHORT_HALF * TAP_BYTES, LONG_HALF - SHORT_HALF, SHORT_HALF));
  }
  return peak;
}

function ofGroup(taps: usize, first: i32, count: i32): v128 {
  let even0 = f32x4.splat(0);
  let even1 = even0;
  let even2 = even0;
  let even3 = even0;
  let odd0 = even0;
  let odd1 = even0;
  let odd2 = even0;
  let odd3 = even0;
  let from: usize = <usize>first << 4;
  for (const end = taps + <usize>count * TAP_BYTES; taps < end; taps += TAP_BYTES, from += 16) {
    const sum = v128.load(sums + from);
    const difference = v128.load(differences + from);
    even0 = f32x4.add(even0, f32x4.mul(sum, v128.load32_splat(taps)));
    even1 = f32x4.add(even1, f32x4.mul(sum, v128.load32_splat(taps, 4)));
    even2 = f32x4.add(even2, f32x4.mul(sum, v128.load32_splat(taps, 8)));
    even3 = f32x4.add(even3, f32x4.mul(sum, v128.load32_splat(taps, 12)));
    odd0 = f32x4.add(odd0, f32x4.mul(difference, v128.load32_splat(taps, 16)));
    odd1 = f32x4.add(odd1, f32x4.mul(difference, v128.load32_splat(taps, 20)));
    odd2 = f32x4.add(odd2, f32x4.mul(difference, v128.load32_splat(taps, 24)));
    odd3 = f32x4.add(odd3, f32x4.mul(difference, v128.load32_splat(taps, 28)));
  }
  const first2 = f32x4.pmax(
    f32x4.add(magnitudeOf(even0), magnitudeOf(odd0)),
    f32x4.add(magnitudeOf(even1), magnitudeOf(odd1)),
  );
  const last2 = f32x4.pmax(
    f32x4.add(magnitudeOf(even2), magnitudeOf(odd2)),
    f32x4.add(magnitudeOf(even3), magnitudeOf(odd3)),
  );
  return f32x4.pmax(first2, last2);
}

/** core/loudness/k-weighting in f64: the shelf with the gain of both, then the high-pass; each coefficient in both lanes. */
const filter = memory.data(7 * 16, 16);
const NEGLIGIBLE: f64 = 1e-30;

export function setFilter(b0: f64, b1: f64, b2: f64, a1: f64, a2: f64, c1: f64, c2: f64): void {
  v128.store(filter, f64x2.splat(b0));
  v128.store(filter, f64x2.splat(b1), 16);
  v128.store(filter, f64x2.splat(b2), 32);
  v128.store(filter, f64x2.splat(a1), 48);
  v128.store(filter, f64x2.splat(a2), 64);
  v128.store(filter, f64x2.splat(c1), 80);
  v128.store(filter, f64x2.splat(c2), 96);
}

/**
 * core/limiter/fine-energy for two channels: adds the squares of their samples, weighted and as they are, to the entries
 * of the nodes that they stand in.
 *
 * @param states of their filters: four vectors
 * @param entries of a node each: its weighted squares and its plain ones, a vector each; the first `passed` frames of the
 * first node have been added
 */
export function weighPair(
  left: usize,
  right: usize,
  frames: i32,
  states: usize,
  entries: usize,
  passed: i32,
  width: i32,
): void {
  const b0 = v128.load(filter);
  const b1 = v128.load(filter, 16);
  const b2 = v128.load(filter, 32);
  const a1 = v128.load(filter, 48);
  const a2 = v128.load(filter, 64);
  const c1 = v128.load(filter, 80);
  const c2 = v128.load(filter, 96);
  let s1 = v128.load(states);
  let s2 = v128.load(states, 16);
  let h1 = v128.load(states, 32);
  let h2 = v128.load(states, 48);
  while (frames > 0) {
    const run = min(frames, width - passed);
    let weighted = v128.load(entries);
    let plain = v128.load(entries, 16);
    for (const end = left + (<usize>run << 2); left < end; left += 4, right += 4) {
      const x = f64x2.promote_low_f32x4(v128.load_lane<f32>(right, v128.load32_zero(left), 1));
      const y = f64x2.add(f64x2.mul(b0, x), s1);
      s1 = f64x2.add(f64x2.sub(f64x2.mul(b1, x), f64x2.mul(a1, y)), s2);
      s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
      const z = f64x2.add(y, h1);
      h1 = f64x2.sub(f64x2.sub(h2, f64x2.add(y, y)), f64x2.mul(c1, z));
      h2 = f64x2.sub(y, f64x2.mul(c2, z));
      weighted = f64x2.add(weighted, f64x2.mul(z, z));
      plain = f64x2.add(plain, f64x2.mul(x, x));
    }
    v128.store(entries, weighted);
    v128.store(entries, plain, 16);
    s1 = settled(s1);
    s2 = settled(s2);
    h1 = settled(h1);
    h2 = settled(h2);
    frames -= run;
    passed = 0;
    entries += 32;
  }
  v128.store(states, s1);
  v128.store(states, s2, 16);
  v128.store(states, h1, 32);
  v128.store(states, h2, 48);
}

/** Without what is only a denormal number, which slows every later sample down. */
@inline
function settled(state: v128): v128 {
  return v128.and(state, f64x2.ge(f64x2.abs(state), f64x2.splat(NEGLIGIBLE)));
}

/** Where the module's own data end: the loader lays out what it needs behind that. */
export function dataEnd(): usize {
  return __heap_base;
}
