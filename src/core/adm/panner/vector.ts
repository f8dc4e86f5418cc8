/** Directions and what is asked of them. X is to the right, Y to the front, Z up. */

export type Vector = readonly [x: number, y: number, z: number];

/**
 * The direction of a place on the unit sphere (ITU-R BS.2127, 6.8, from memory).
 *
 * @param azimuthDegrees to the left from the front
 * @param elevationDegrees above the ears
 */
export function directionOf(azimuthDegrees: number, elevationDegrees: number): Vector {
  const azimuth = (azimuthDegrees * Math.PI) / 180;
  const elevation = (elevationDegrees * Math.PI) / 180;
  return [-Math.sin(azimuth) * Math.cos(elevation), Math.cos(azimuth) * Math.cos(elevation), Math.sin(elevation)];
}

export const dot = (a: Vector, b: Vector): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const plus = (a: Vector, b: Vector): Vector => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const minus = (a: Vector, b: Vector): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const scaled = (a: Vector, by: number): Vector => [by * a[0], by * a[1], by * a[2]];
export const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

export function unit(a: Vector): Vector {
  return scaled(a, 1 / Math.hypot(...a));
}

export function meanOf(points: readonly Vector[]): Vector {
  return scaled(points.reduce(plus, [0, 0, 0]), 1 / points.length);
}

/** Gains of unit power; all zero stays so. */
export function normalised(gains: readonly number[]): number[] {
  const power = gains.reduce((sum, gain) => sum + gain * gain, 0);
  return power === 0 ? [...gains] : gains.map((gain) => gain / Math.sqrt(power));
}
