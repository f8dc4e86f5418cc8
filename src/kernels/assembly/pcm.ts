/** Interleaved PCM to planar samples and back: formats/samples and formats/pack, without dither. */
export { unpack } from './unpack';

/**
 * One channel of planar samples, each times a factor in f64 and rounded to the nearest step (halves upwards), into every
 * `stride` bytes. What stands beyond full scale is held at it.
 *
 * @param bits 16 or 24
 * @returns how many samples stood beyond full scale by more than the step that +1.0 has no code for
 */
export function packIntegers(
  bits: i32,
  isBigEndian: bool,
  from: usize,
  frames: i32,
  factor: f64,
  to: usize,
  stride: i32,
): i32 {
  const scale = <f64>(1 << (bits - 1));
  const factors = f64x2.splat(factor);
  const half = f64x2.splat(0.5);
  const one = f64x2.splat(1);
  const most = f64x2.splat(scale - 1);
  const least = f64x2.splat(-scale);
  const justOver = f64x2.splat(scale);
  let clipped = 0;
  // Two at once; of an odd number the last by itself.
  for (; frames > 0; frames -= 2, from += 8, to += stride << 1) {
    const isPair = frames > 1;
    const pair = isPair ? v128.load64_zero(from) : v128.load32_zero(from);
    const exact = f64x2.mul(f64x2.promote_low_f32x4(pair), factors);
    const whole = f64x2.floor(exact);
    const value = f64x2.add(whole, v128.and(f64x2.ge(f64x2.sub(exact, whole), half), one));
    const beyond = v128.or(f64x2.gt(value, most), f64x2.lt(value, least));
    if (v128.any_true(beyond)) clipped += popcnt(i64x2.bitmask(v128.and(beyond, f64x2.ne(value, justOver))));
    const codes = i32x4.trunc_sat_f64x2_s_zero(f64x2.min(f64x2.max(value, least), most));
    put(bits, isBigEndian, i32x4.extract_lane(codes, 0), to);
    if (isPair) put(bits, isBigEndian, i32x4.extract_lane(codes, 1), to + stride);
  }
  return clipped;
}

/** One code, in the bytes of its format. */
function put(bits: i32, isBigEndian: bool, code: i32, to: usize): void {
  if (bits == 16) {
    store<u16>(to, isBigEndian ? bswap<u16>(<u16>code) : <u16>code);
  } else if (isBigEndian) {
    store<u8>(to, <u8>(code >> 16));
    store<u16>(to, bswap<u16>(<u16>code), 1);
  } else {
    store<u16>(to, <u16>code);
    store<u8>(to, <u8>(code >> 16), 2);
  }
}

/** Where the module's own data end: the loader lays out what it needs behind that. */
export function dataEnd(): usize {
  return __heap_base;
}
