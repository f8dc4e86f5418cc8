/** formats/samples unpack: interleaved samples to planar f32, where what is not finite becomes silence. */

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

/** One channel, one frame after the other; returns how many samples were not finite. */
export function unpack(encoding: i32, isBigEndian: bool, from: usize, stride: i32, to: usize, frames: i32): i32 {
  if (encoding == U8) {
    for (let i = 0; i < frames; i++, from += stride, to += 4) store<f32>(to, <f32>(<i32>load<u8>(from) - 128) * SCALE_8);
    return 0;
  }
  if (encoding == S8) {
    for (let i = 0; i < frames; i++, from += stride, to += 4) store<f32>(to, <f32>load<i8>(from) * SCALE_8);
    return 0;
  }
  if (encoding == S24) {
    if (isBigEndian) {
      for (let i = 0; i < frames; i++, from += stride, to += 4) {
        const high = <i32>load<u8>(from) << 24;
        store<f32>(to, <f32>(high | (<i32>bswap<u16>(load<u16>(from, 1)) << 8)) * SCALE_32);
      }
    } else {
      for (let i = 0; i < frames; i++, from += stride, to += 4) {
        const high = <i32>load<u16>(from, 1) << 16;
        store<f32>(to, <f32>(high | (<i32>load<u8>(from) << 8)) * SCALE_32);
      }
    }
    return 0;
  }
  if (encoding == S16) {
    for (let i = 0; i < frames; i++, from += stride, to += 4) {
      const bits = load<u16>(from);
      store<f32>(to, <f32>(<i16>(isBigEndian ? bswap<u16>(bits) : bits)) * SCALE_16);
    }
    return 0;
  }
  if (encoding == S32) {
    for (let i = 0; i < frames; i++, from += stride, to += 4) {
      const bits = load<u32>(from);
      store<f32>(to, <f32>(<i32>(isBigEndian ? bswap<u32>(bits) : bits)) * SCALE_32);
    }
    return 0;
  }
  if (encoding == F32) return unpackFloat32(isBigEndian, from, stride, to, frames);
  return unpackFloat64(isBigEndian, from, stride, to, frames);
}

function unpackFloat32(isBigEndian: bool, from: usize, stride: i32, to: usize, frames: i32): i32 {
  let nonFinite = 0;
  for (let i = 0; i < frames; i++, from += stride, to += 4) {
    const bits = load<u32>(from);
    nonFinite += keepFinite(reinterpret<f32>(isBigEndian ? bswap<u32>(bits) : bits), to);
  }
  return nonFinite;
}

function unpackFloat64(isBigEndian: bool, from: usize, stride: i32, to: usize, frames: i32): i32 {
  let nonFinite = 0;
  for (let i = 0; i < frames; i++, from += stride, to += 4) {
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

/** Stereo, little-endian, four frames a turn; the loader has the last ones unpacked apart. */
export function unpackInt24Stereo(from: usize, left: usize, right: usize, quads: i32): void {
  const scale = f32x4.splat(SCALE_32);
  // Each sample goes to the upper bytes of its lane; −128 leaves a zero.
  const spread = i8x16(-128, 0, 1, 2, -128, 3, 4, 5, -128, 6, 7, 8, -128, 9, 10, 11);
  for (let i = 0; i < quads; i++, from += 24, left += 16, right += 16) {
    const a = f32x4.mul(f32x4.convert_i32x4_s(i8x16.swizzle(v128.load(from), spread)), scale);
    const b = f32x4.mul(f32x4.convert_i32x4_s(i8x16.swizzle(v128.load(from, 12), spread)), scale);
    v128.store(left, i8x16.shuffle(a, b, 0, 1, 2, 3, 8, 9, 10, 11, 16, 17, 18, 19, 24, 25, 26, 27));
    v128.store(right, i8x16.shuffle(a, b, 4, 5, 6, 7, 12, 13, 14, 15, 20, 21, 22, 23, 28, 29, 30, 31));
  }
}

export function unpackInt16Stereo(from: usize, left: usize, right: usize, quads: i32): void {
  const scale = f32x4.splat(SCALE_16);
  for (let i = 0; i < quads; i++, from += 16, left += 16, right += 16) {
    const both = v128.load(from);
    v128.store(left, f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_s(i32x4.shl(both, 16), 16)), scale));
    v128.store(right, f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_s(both, 16)), scale));
  }
}

/** Returns how many quads were all finite, one after the other from the first: the loader has the rest unpacked apart. */
export function unpackFloat32Stereo(from: usize, left: usize, right: usize, quads: i32): i32 {
  for (let i = 0; i < quads; i++, from += 32, left += 16, right += 16) {
    const a = v128.load(from);
    const b = v128.load(from, 16);
    const zero = f32x4.add(f32x4.sub(a, a), f32x4.sub(b, b));
    if (!i32x4.all_true(f32x4.eq(zero, f32x4.splat(0)))) return i;
    v128.store(left, i8x16.shuffle(a, b, 0, 1, 2, 3, 8, 9, 10, 11, 16, 17, 18, 19, 24, 25, 26, 27));
    v128.store(right, i8x16.shuffle(a, b, 4, 5, 6, 7, 12, 13, 14, 15, 20, 21, 22, 23, 28, 29, 30, 31));
  }
  return quads;
}
