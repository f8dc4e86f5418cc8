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
  const most = scale - 1;
  let clipped = 0;
  for (const end = from + (<usize>frames << 2); from < end; from += 4, to += stride) {
    const exact = <f64>load<f32>(from) * factor;
    const whole = floor(exact);
    let value = exact - whole >= 0.5 ? whole + 1 : whole;
    if (value > most || value < -scale) {
      if (value != scale) clipped++;
      value = value > 0 ? most : -scale;
    }
    const code = <i32>value;
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
  return clipped;
}

/** Where the module's own data end: the loader lays out what it needs behind that. */
export function dataEnd(): usize {
  return __heap_base;
}
