import { slidingMax, slidingMean, slidingMin } from './sliding';

/**
 * How much a limiter turns down, for every node of a peak envelope.
 *
 * Two parts. The fast one goes down ahead of each peak within 1.5 ms and lets go within some 20 ms (both can be set); it is heard least, and costs
 * least loudness. Beneath it lies a floor for what stays over the ceiling for longer than 100 ms: held over half a cycle
 * of 31 Hz, so that a bass note is turned down as a whole and not cycle by cycle, which would distort it. The floor looks
 * ahead; what is computed is the programme's own, and what is heard is what is written.
 */

/** Detected peaks stand a trifle under those of a finer look (measured on noise, clicks, squares and music). */
export const MARGIN_DB = 0.03;
/**
 * How long before a peak the fast part begins to go down, unless it is set. The shorter, the less is turned down beside
 * peaks, and the steeper.
 */
export const LOOK_AHEAD_MS = 1.5;
/**
 * Spans of the smoothing, three means in a row, as shares of the look-ahead. What they smooth is held for half of it around
 * each peak, and they begin half of it ahead of that.
 */
const SMOOTHING_SHARES = [0.5, 0.3, 0.2] as const;
/** Gaps this short within what is over are none, and what is over for less than the second is left to the fast part. */
const FLOOR_GAP_MS = 16;
const FLOOR_LEAST_MS = 100;
const FLOOR_WIDENED_MS = 10;
const FLOOR_SMOOTHING_MS = 10;
/** By programme, the fast part falls to 1/e in this time. */
export const PROGRAMME_RELEASE_MS = 20;
/** Less than this is nothing. */
export const NEGLIGIBLE_DB = 1e-5;
/** What a peak moves before it, by the floor that looks ahead, and behind it, beside the release. */
const REACH_BEFORE_MS = 200;
const REACH_BEHIND_MS = 200;
/** The greatest reduction has fallen to nothing after so many times of release: 20 dB · e⁻¹⁵ is less than 1e-5 dB. */
const RELEASES = 15;
/** Curves are made in stretches of so many nodes, whoever asks: no result depends on where one began to ask. */
export const CURVE_BLOCK = 16_384;

export interface CurveSettings {
  /** That the programme is turned up by before. */
  gainDb: number;
  ceilingDbtp: number;
  /** How long before a peak the fast part begins to go down. */
  lookAheadMs?: number | undefined;
  /** Time in which the fast part falls to 1/e; null is by programme. */
  releaseMs?: number | null | undefined;
  /** How much groups of one domain go down together: from 0 (each by itself) to 1 (all as the one that needs most). */
  link?: number;
}

/** Greatest true peaks of the nodes of one or more groups of channels. */
export interface NodePeaks {
  /** Nodes of each group. */
  readonly length: number;
  readonly nodesPerSecond: number;
  /** For each group, the domain that it may be linked within. */
  readonly domains: readonly number[];
  /** Nodes [from, to) of a group in dBTP, −∞ for silence; a view that the next call may write to again. */
  read(group: number, from: number, to: number): Float32Array;
}

/** Reductions in dB, 0 or more, at the beginning of every node of a block, and of the first behind it. */
export interface CurveBlock {
  /** First node. */
  from: number;
  /** For each group, one value more than there are nodes; the last of a programme stays. */
  reductions: Float32Array[];
}

export function curveBlocks(peaks: NodePeaks): number {
  return Math.ceil(peaks.length / CURVE_BLOCK);
}

/** Between two nodes the reduction is a straight line in dB. */
export function curveBlock(
  peaks: NodePeaks,
  index: number,
  settings: CurveSettings,
  makeCurve: CurveMaker = curveStretch,
): CurveBlock {
  const { length, nodesPerSecond } = peaks;
  const releaseMs = settings.releaseMs ?? PROGRAMME_RELEASE_MS;
  const shape = curveShape(nodesPerSecond, settings.lookAheadMs ?? LOOK_AHEAD_MS, releaseMs);
  const nodes = (ms: number) => Math.ceil((ms * nodesPerSecond) / 1000);
  const before = nodes(REACH_BEFORE_MS);
  const behind = nodes(REACH_BEHIND_MS + RELEASES * releaseMs);
  const from = index * CURVE_BLOCK;
  const count = Math.min(CURVE_BLOCK, length - from);
  const start = Math.max(0, from - behind);
  const end = Math.min(length, from + count + 1 + before);
  const reductions = askedOf(peaks, start, end, settings).map((asked) => {
    const block = new Float32Array(count + 1);
    // Where nothing is over, nothing is done: most of a programme costs no more than a look.
    for (const [first, last] of stretches(asked, before, behind)) {
      const to = Math.min(last, from + count + 1 - start);
      if (to + start <= from) continue;
      const stretch = makeCurve(asked.subarray(first, last), shape);
      const skipped = Math.max(0, from - start - first);
      block.set(stretch.subarray(skipped, to - first), first + skipped + start - from);
    }
    if (from + count === length) block[count] = block[count - 1] as number;
    return block;
  });
  return { from, reductions };
}

/** By how many dB each node exceeds the ceiling, linked as it is set. */
function askedOf(peaks: NodePeaks, start: number, end: number, settings: CurveSettings): Float32Array[] {
  const { gainDb, ceilingDbtp, link = 1 } = settings;
  const moveDb = gainDb - ceilingDbtp + MARGIN_DB;
  const own = peaks.domains.map((_, group) => {
    const asked = new Float32Array(end - start);
    const values = peaks.read(group, start, end);
    for (let k = 0; k < asked.length; k++) {
      const overDb = (values[k] as number) + moveDb;
      if (overDb > 0) asked[k] = overDb;
    }
    return asked;
  });
  if (own.length === 1 || link === 0) return own;
  const greatest = new Map<number, Float32Array>();
  own.forEach((asked, group) => {
    const domain = peaks.domains[group] as number;
    const most = greatest.get(domain);
    greatest.set(domain, most ? most.map((value, k) => Math.max(value, asked[k] as number)) : asked);
  });
  return own.map((asked, group) => {
    const most = greatest.get(peaks.domains[group] as number) as Float32Array;
    return asked.map((value, k) => value + link * ((most[k] as number) - value));
  });
}

/** Nodes from a while before a peak over the ceiling to a while behind; those that touch are one. */
function stretches(asked: Float32Array, before: number, behind: number): [number, number][] {
  const found: [number, number][] = [];
  const { length } = asked;
  for (let k = 0; k < length; k++) {
    if (asked[k] === 0) continue;
    const from = Math.max(0, k - before);
    // Up to where nothing has been over for so long that nothing is left of it, nor anything ahead is seen.
    const gap = behind + before;
    let last = k;
    for (let next = k + 1; next < length && next - last <= gap; next++) if (asked[next] !== 0) last = next;
    found.push([from, Math.min(length, last + 1 + behind)]);
    k = last;
  }
  return found;
}

/** The spans of a gain reduction curve in nodes, and what is left of its fast part from each to the next. */
interface CurveShape {
  reach: number;
  gap: number;
  least: number;
  widened: number;
  /** Odd, as the next three are. */
  floorWidth: number;
  widths: readonly [number, number, number];
  decay: number;
}

function curveShape(nodesPerSecond: number, lookAheadMs: number, releaseMs: number): CurveShape {
  const nodes = (ms: number) => Math.max(1, Math.round((ms * nodesPerSecond) / 1000));
  const odd = (ms: number) => 2 * Math.floor(nodes(ms) / 2) + 1;
  const [first, second, third] = SMOOTHING_SHARES;
  const widths = [odd(first * lookAheadMs), odd(second * lookAheadMs), odd(third * lookAheadMs)] as const;
  return {
    reach: widths.reduce((sum, width) => sum + (width - 1) / 2, 0) + 1,
    gap: nodes(FLOOR_GAP_MS),
    least: nodes(FLOOR_LEAST_MS),
    widened: nodes(FLOOR_WIDENED_MS),
    floorWidth: odd(FLOOR_SMOOTHING_MS),
    widths,
    decay: Math.exp(-1000 / (releaseMs * nodesPerSecond)),
  };
}

/** From what is asked for to the reductions of one stretch; what is returned may be written to again by the next call. */
export type CurveMaker = (asked: Float32Array, shape: CurveShape) => Float32Array;

/** The plain way, in f64; the kernel does the same in f32. */
export const curveStretch: CurveMaker = (asked, shape) => {
  const { reach, widened, floorWidth, widths, decay } = shape;
  const exact = Float64Array.from(asked);
  const held = slidingMax(exact, reach, reach);
  const wide = slidingMax(sustained(exact, shape), widened, widened);
  const floor = slidingMean(slidingMean(wide, floorWidth), floorWidth);
  let previous = 0;
  let curve: Float64Array = held.map((needed, k) => {
    previous = Math.max(needed, floor[k] as number, previous * decay);
    if (previous < NEGLIGIBLE_DB) previous = 0;
    return previous;
  });
  for (const width of widths) curve = slidingMean(curve, width);
  return Float32Array.from(curve);
};

/** What stays over for long: an opening of a closing (the terms are those of morphology). */
function sustained(asked: Float64Array, { gap, least }: CurveShape): Float64Array {
  const around = (span: number) => [Math.floor(span / 2), Math.ceil(span / 2)] as const;
  const [gapBefore, gapBehind] = around(gap);
  const [before, behind] = around(least);
  const closed = slidingMin(slidingMax(asked, gapBefore, gapBehind), gapBehind, gapBefore);
  return slidingMax(slidingMin(closed, before, behind), behind, before);
}
