/** formats/samples unpack: interleaved samples to the lanes of quads, in f32; what is not finite becomes silence. */

/* The loader's numbers for core formats/samples' encodings. */
const U8: i32 = 0;
const S8: i32 = 1;
const S16: i32 = 2;
const S24: i32 = 3;
const S32: i32 = 4;
const F32: i32 = 5;

const SCALE_8: f32 = 0.0078125;
const SCALE_16: f32 = 0.000030517578125;
const SCALE_32: f32 = 0.0000000004656612873077393;

/**
 * One channel, one frame after the other, to every `step` bytes: 16 into its lane of a quad, 4 one behind the other.
 *
 * @returns how many samples were not finite
 */
export function unpack(encoding: i32, isBigEndian: bool, from: usize, stride: i32, to: usize, step: i32, frames: i32): i32 {
  if (encoding == U8) {
    for (let i = 0; i < frames; i++, from += stride, to += step) store<f32>(to, <f32>(<i32>load<u8>(from) - 128) * SCALE_8);
    return 0;
  }
  if (encoding == S8) {
    for (let i = 0; i < frames; i++, from += stride, to += step) store<f32>(to, <f32>load<i8>(from) * SCALE_8);
    return 0;
  }
  if (encoding == S24) {
    if (isBigEndian) {
      for (let i = 0; i < frames; i++, from += stride, to += step) {
        const high = <i32>load<u8>(from) << 24;
        store<f32>(to, <f32>(high | (<i32>bswap<u16>(load<u16>(from, 1)) << 8)) * SCALE_32);
      }
    } else {
      for (let i = 0; i < frames; i++, from += stride, to += step) {
        const high = <i32>load<u16>(from, 1) << 16;
        store<f32>(to, <f32>(high | (<i32>load<u8>(from) << 8)) * SCALE_32);
      }
    }
    return 0;
  }
  if (encoding == S16) {
    for (let i = 0; i < frames; i++, from += stride, to += step) {
      const bits = load<u16>(from);
      store<f32>(to, <f32>(<i16>(isBigEndian ? bswap<u16>(bits) : bits)) * SCALE_16);
    }
    return 0;
  }
  if (encoding == S32) {
    for (let i = 0; i < frames; i++, from += stride, to += step) {
      const bits = load<u32>(from);
      store<f32>(to, <f32>(<i32>(isBigEndian ? bswap<u32>(bits) : bits)) * SCALE_32);
    }
    return 0;
  }
  if (encoding == F32) return unpackFloat32(isBigEndian, from, stride, to, step, frames);
  return unpackFloat64(isBigEndian, from, stride, to, step, frames);
}

function unpackFloat32(isBigEndian: bool, from: usize, stride: i32, to: usize, step: i32, frames: i32): i32 {
  let nonFinite = 0;
  for (let i = 0; i < frames; i++, from += stride, to += step) {
    const bits = load<u32>(from);
    nonFinite += keepFinite(reinterpret<f32>(isBigEndian ? bswap<u32>(bits) : bits), to);
  }
  return nonFinite;
}

function unpackFloat64(isBigEndian: bool, from: usize, stride: i32, to: usize, step: i32, frames: i32): i32 {
  let nonFinite = 0;
  for (let i = 0; i < frames; i++, from += stride, to += step) {
    const bits = load<u64>(from);
    nonFinite += keepFinite(<f32>reinterpret<f64>(isBigEndian ? bswap<u64>(bits) : bits), to);
  }
  return nonFinite;
}

@inline
function keepFinite(x: f32, to: usize): i32 {
  const isFinite = x - x == 0;
  store<f32>(to, isFinite ? x : 0);
  return isFinite ? 0 : 1;
}

/** Four channels at once, wherever each begins, in little-endian integers of 16, 24 or 32 bits. */
export function unpackIntegers(
  from0: usize,
  from1: usize,
  from2: usize,
  from3: usize,
  stride: i32,
  bytes: i32,
  to: usize,
  frames: i32,
): void {
  const scale = f32x4.splat(SCALE_32);
  // Of the four bytes that end with a sample's last, those before the sample are cleared.
  const mask = i32x4.splat(-1 << (32 - 8 * bytes));
  const lead = 4 - bytes;
  for (let i = 0, offset = -lead; i < frames; i++, offset += stride, to += 16) {
    const first = v128.load_lane<u32>(from1 + offset, v128.load_zero<u32>(from0 + offset), 1);
    const all = v128.load_lane<u32>(from3 + offset, v128.load_lane<u32>(from2 + offset, first, 2), 3);
    v128.store(to, f32x4.mul(f32x4.convert_i32x4_s(v128.and(all, mask)), scale));
  }
}

/* Two stereo segments side by side, little-endian, so many frames a turn (eight of integers, four of floats); the loader has the last ones unpacked apart. */

/** The scales of integers of 32 and of 16 bits, in all lanes: what is loaded is not made anew in every turn. */
const scales = memory.data<f32>([SCALE_32, SCALE_32, SCALE_32, SCALE_32, SCALE_16, SCALE_16, SCALE_16, SCALE_16], 16);

export function unpackInt24Stereo(first: usize, second: usize, to: usize, turns: i32): void {
  const scale = v128.load(scales);
  for (let i = 0; i < turns; i++, first += 48, second += 48, to += 128) {
    storePair(int24(first, scale), int24(second, scale), to);
    storePair(int24(first + 12, scale), int24(second + 12, scale), to + 32);
    storePair(int24(first + 24, scale), int24(second + 24, scale), to + 64);
    storePair(int24(first + 36, scale), int24(second + 36, scale), to + 96);
  }
}

@inline
function int24(from: usize, scale: v128): v128 {
  // Each sample goes to the upper bytes of its lane; −128 leaves a zero.
  const spread = i8x16(-128, 0, 1, 2, -128, 3, 4, 5, -128, 6, 7, 8, -128, 9, 10, 11);
  return f32x4.mul(f32x4.convert_i32x4_s(i8x16.swizzle(v128.load(from), spread)), scale);
}

export function unpackInt16Stereo(first: usize, second: usize, to: usize, turns: i32): void {
  const scale = v128.load(scales, 16);
  for (let i = 0; i < turns; i++, first += 32, second += 32, to += 128) {
    storePair(int16(first, scale), int16(second, scale), to);
    storePair(int16(first + 8, scale), int16(second + 8, scale), to + 32);
    storePair(int16(first + 16, scale), int16(second + 16, scale), to + 64);
    storePair(int16(first + 24, scale), int16(second + 24, scale), to + 96);
  }
}

@inline
function int16(from: usize, scale: v128): v128 {
  return f32x4.mul(f32x4.convert_i32x4_s(v128.load_ext<i16>(from)), scale);
}

/** Returns how many turns were all finite, one after the other from the first: the loader has the rest unpacked apart. */
export function unpackFloat32Stereo(first: usize, second: usize, to: usize, turns: i32): i32 {
  for (let i = 0; i < turns; i++, first += 32, second += 32, to += 64) {
    const a = v128.load(first);
    const b = v128.load(first, 16);
    const c = v128.load(second);
    const d = v128.load(second, 16);
    const zero = f32x4.add(
      f32x4.add(f32x4.sub(a, a), f32x4.sub(b, b)),
      f32x4.add(f32x4.sub(c, c), f32x4.sub(d, d)),
    );
    if (!i32x4.all_true(f32x4.eq(zero, f32x4.splat(0)))) return i;
    storePair(a, c, to);
    storePair(b, d, to + 32);
  }
  return turns;
}

/** Two frames of one segment beside two of the other. */
@inline
function storePair(first: v128, second: v128, to: usize): void {
  v128.store(to, i8x16.shuffle(first, second, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23));
  v128.store(to, i8x16.shuffle(first, second, 8, 9, 10, 11, 12, 13, 14, 15, 24, 25, 26, 27, 28, 29, 30, 31), 16);
}
