import { cross, dot, meanOf, minus, unit, type Vector } from './vector';

/** Points nearer to a plane than this lie in it. */
const FLAT = 1e-6;

/**
 * The facets of the convex hull of points, each as the points that lie in its plane, in their order around it.
 *
 * Every plane through three points is tried: of the two dozen of a loudspeaker layout, that is soon done.
 *
 * @param points not all in one plane
 * @returns indices into them
 */
export function convexHull(points: readonly Vector[]): number[][] {
  const facets = new Map<string, number[]>();
  for (let i = 0; i < points.length; i++) {
    for (let j = i + 1; j < points.length; j++) {
      for (let k = j + 1; k < points.length; k++) {
        const inPlane = facetThrough(points, i, j, k);
        if (inPlane) facets.set(inPlane.join(), inPlane);
      }
    }
  }
  return [...facets.values()].map((facet) => inOrder(points, facet));
}

/** The points of a plane that has all others on one side; undefined where it has not. */
function facetThrough(points: readonly Vector[], i: number, j: number, k: number): number[] | undefined {
  const [a, b, c] = [points[i], points[j], points[k]] as [Vector, Vector, Vector];
  const across = cross(minus(b, a), minus(c, a));
  if (Math.hypot(...across) < FLAT) return undefined;
  const normal = unit(across);
  const heights = points.map((point) => dot(normal, minus(point, a)));
  if (heights.some((height) => height > FLAT) && heights.some((height) => height < -FLAT)) return undefined;
  return heights.flatMap((height, index) => (Math.abs(height) <= FLAT ? [index] : []));
}

/** Points of a plane, in their order around its middle. */
export function inOrder(points: readonly Vector[], indices: readonly number[]): number[] {
  const own = indices.map((index) => points[index] as Vector);
  const middle = meanOf(own);
  const [first, second] = [minus(own[0] as Vector, middle), minus(own[1] as Vector, middle)];
  const normal = unit(cross(first, second));
  const across = cross(normal, first);
  const angle = (index: number) => {
    const arm = minus(points[index] as Vector, middle);
    return Math.atan2(dot(arm, across), dot(arm, first));
  };
  return [...indices].sort((a, b) => angle(a) - angle(b));
}
