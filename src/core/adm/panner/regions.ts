/** Parts of the sphere around a listener, and how a source within one of them is given to loudspeakers (ITU-R BS.2127, 6.1.2, from memory). */
import { cross, dot, minus, normalised, plus, scaled, unit, type Vector } from './vector';

/** Gains may be so little below zero at the edge of a region, which another begins at. */
const EDGE = 1e-9;
/** Less than this of a quadratic is none. */
const FLAT = 1e-12;
/** The sine of what two directions may differ by, and be one. */
const SAME_DIRECTION = 1e-6;
const NOWHERE: Vector = [0, 0, 0];

export interface Region {
  /** Of the layout, in the order of the gains. */
  readonly outputs: readonly number[];
  /** The gains of a direction, of unit power; undefined where it lies outside. */
  gains(direction: Vector): readonly number[] | undefined;
}

/** Three loudspeakers: their directions, weighted, add up to that of the source. */
export function triplet(outputs: readonly number[], corners: readonly [Vector, Vector, Vector]): Region {
  const [a, b, c] = corners;
  const volume = dot(a, cross(b, c));
  const rows = [cross(b, c), cross(c, a), cross(a, b)] as const;
  return {
    outputs,
    gains: (direction) => {
      const gains = rows.map((row) => dot(row, direction) / volume);
      if (gains.some((gain) => gain < -EDGE)) return undefined;
      return normalised(gains.map((gain) => Math.max(0, gain)));
    },
  };
}

/** Loudspeakers around a middle where there is none: what would go there goes to all of them. */
export function virtualNgon(outputs: readonly number[], corners: readonly Vector[], middle: Vector): Region {
  const count = corners.length;
  const share = 1 / Math.sqrt(count);
  const parts = corners.map((corner, i) => {
    const next = (i + 1) % count;
    return { i, next, region: triplet([i, next, count], [corner, corners[next] as Vector, middle]) };
  });
  return {
    outputs,
    gains: (direction) => {
      for (const { i, next, region } of parts) {
        const found = region.gains(direction);
        if (!found) continue;
        const [own, other, shared] = found as [number, number, number];
        const gains = new Array<number>(count).fill(share * shared);
        gains[i] = (gains[i] as number) + own;
        gains[next] = (gains[next] as number) + other;
        return normalised(gains);
      }
      return undefined;
    },
  };
}

type Corners = readonly [Vector, Vector, Vector, Vector];

/**
 * Four loudspeakers, in their order around the region: the source lies on a line between two points of opposite sides, so far along each of them.
 */
export function quad(outputs: readonly number[], corners: Corners): Region {
  const [a, b, c, d] = corners;
  const along = quadraticOf(a, b, c, d);
  const across = quadraticOf(b, c, d, a);
  return {
    outputs,
    gains: (direction) => {
      for (const x of rootsOf(along, direction)) {
        for (const y of rootsOf(across, direction)) {
          const gains = [(1 - x) * (1 - y), x * (1 - y), x * y, (1 - x) * y];
          const sum = corners.reduce<Vector>(
            (all, corner, i) => plus(all, scaled(corner, gains[i] as number)),
            NOWHERE,
          );
          // The opposite direction has the same roots, and a root of one side may belong to another of the other.
          const isThere = dot(sum, direction) > 0 && Math.hypot(...cross(unit(sum), direction)) < SAME_DIRECTION;
          if (isThere) return normalised(gains);
        }
      }
      return undefined;
    },
  };
}

/** What of a direction is the quadratic, whose root is how far along `ab` and `dc` the line through it goes. */
function quadraticOf(a: Vector, b: Vector, c: Vector, d: Vector): readonly [Vector, Vector, Vector] {
  const ab = minus(b, a);
  const dc = minus(c, d);
  return [cross(ab, dc), plus(cross(a, dc), cross(ab, d)), cross(a, d)];
}

/** The roots from 0 to 1. */
function rootsOf(quadratic: readonly [Vector, Vector, Vector], direction: Vector): number[] {
  const [p, q, r] = quadratic.map((part) => dot(part, direction)) as [number, number, number];
  return realRoots(p, q, r)
    .filter((root) => root >= -EDGE && root <= 1 + EDGE)
    .map((root) => Math.min(1, Math.max(0, root)));
}

function realRoots(p: number, q: number, r: number): number[] {
  if (Math.abs(p) < FLAT) return Math.abs(q) < FLAT ? [] : [-r / q];
  const under = q * q - 4 * p * r;
  if (under < 0) return under > -FLAT ? [-q / (2 * p)] : [];
  // The sum that loses no digits, and the other root by their product.
  const sum = -(q + (q < 0 ? -1 : 1) * Math.sqrt(under)) / 2;
  return sum === 0 ? [0] : [sum / p, r / sum];
}
