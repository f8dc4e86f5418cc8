/** Small operations on vectors that several loops share. */
@inline
export function greatest(x: v128): f32 {
  const pairs = f32x4.pmax(x, i8x16.shuffle(x, x, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  return f32x4.extract_lane(f32x4.pmax(pairs, i8x16.shuffle(pairs, pairs, 4, 5, 6, 7, 0, 1, 2, 3, 12, 13, 14, 15, 8, 9, 10, 11)), 0);
}

@inline
export function promoteHigh(x: v128): v128 {
  return f64x2.promote_low_f32x4(i8x16.shuffle(x, x, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15));
}

/** f32x4.abs, which makes its mask anew wherever it is used; this one stays in a register. */
@inline
export function magnitudeOf(x: v128): v128 {
  return v128.and(x, i32x4.splat(0x7fffffff));
}

@inline
export function largest(a: f32, b: f32, c: f32): f32 {
  const ab = a > b ? a : b;
  return ab > c ? ab : c;
}
