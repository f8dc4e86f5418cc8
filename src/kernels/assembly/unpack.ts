/** formats/wav/samples unpack: interleaved little-endian samples to planar f32. */

/** Stereo, four frames a turn; the loader takes the last ones apart. */
export function unpackStereoInt24(from: usize, left: usize, right: usize, quads: i32): void {
  const scale = f32x4.splat(0.0000000004656612873077393);
  const mask = i32x4.splat(0xffffff00);
  for (let i = 0; i < quads; i++, from += 24, left += 16, right += 16) {
    const a = v128.load(from);
    const b = v128.load(from, 8);
    // The lowest byte of each lane is whatever came before, and is masked away.
    const l = i8x16.shuffle(a, b, 0, 0, 1, 2, 0, 6, 7, 8, 0, 12, 13, 14, 0, 26, 27, 28);
    const r = i8x16.shuffle(a, b, 0, 3, 4, 5, 0, 9, 10, 11, 0, 23, 24, 25, 0, 29, 30, 31);
    v128.store(left, f32x4.mul(f32x4.convert_i32x4_s(v128.and(l, mask)), scale));
    v128.store(right, f32x4.mul(f32x4.convert_i32x4_s(v128.and(r, mask)), scale));
  }
}

export function unpackStereoInt16(from: usize, left: usize, right: usize, quads: i32): void {
  const scale = f32x4.splat(0.000030517578125);
  for (let i = 0; i < quads; i++, from += 16, left += 16, right += 16) {
    const both = v128.load(from);
    v128.store(left, f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_s(i32x4.shl(both, 16), 16)), scale));
    v128.store(right, f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_s(both, 16)), scale));
  }
}

export function unpackInt16(from: usize, stride: i32, to: usize, frames: i32): void {
  for (let i = 0; i < frames; i++, from += stride, to += 4) store<f32>(to, <f32>load<i16>(from) * 0.000030517578125);
}

/** `from` points one byte before the first sample: a sample and the byte before it are one 32-bit load. */
export function unpackInt24(from: usize, stride: i32, to: usize, frames: i32): void {
  for (let i = 0; i < frames; i++, from += stride, to += 4) {
    store<f32>(to, <f32>(load<i32>(from) >> 8) * 0.00000011920928955078125);
  }
}

export function unpackInt32(from: usize, stride: i32, to: usize, frames: i32): void {
  for (let i = 0; i < frames; i++, from += stride, to += 4) {
    store<f32>(to, <f32>load<i32>(from) * 0.0000000004656612873077393);
  }
}

/** Returns how many samples were not finite; they become silence. */
export function unpackFloat32(from: usize, stride: i32, to: usize, frames: i32): i32 {
  let nonFinite = 0;
  for (let i = 0; i < frames; i++, from += stride, to += 4) {
    let x = load<f32>(from);
    if (x - x != 0) {
      x = 0;
      nonFinite++;
    }
    store<f32>(to, x);
  }
  return nonFinite;
}
