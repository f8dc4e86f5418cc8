/** Interleaved samples ↔ planar Float32, for every way that a file writes them. */
import { type SampleEncoding, type SampleType, sampleBytes } from '@/core/units/sample-encoding';

/** How each type is read at a byte offset; integers are scaled so that full scale is 1.0. */
const READ: Record<SampleType, (data: DataView, at: number, isLittleEndian: boolean) => number> = {
  u8: (data, at) => (data.getUint8(at) - 0x80) / 0x80,
  s8: (data, at) => data.getInt8(at) / 0x80,
  s16: (data, at, isLittleEndian) => data.getInt16(at, isLittleEndian) / 0x8000,
  s24: (data, at, isLittleEndian) =>
    isLittleEndian
      ? ((data.getInt8(at + 2) << 16) | data.getUint16(at, true)) / 0x800000
      : ((data.getInt16(at, false) << 8) | data.getUint8(at + 2)) / 0x800000,
  s32: (data, at, isLittleEndian) => data.getInt32(at, isLittleEndian) / 0x80000000,
  f32: (data, at, isLittleEndian) => data.getFloat32(at, isLittleEndian),
  f64: (data, at, isLittleEndian) => data.getFloat64(at, isLittleEndian),
};

/**
 * Unpacks `frames` frames of interleaved bytes into planar channels. Samples that are not a number, or infinite as
 * Float32, become silence.
 *
 * @returns how many samples were not finite
 */
export function unpack(
  bytes: Uint8Array,
  frames: number,
  encoding: SampleEncoding,
  channels: readonly Float32Array[],
): number {
  const data = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const read = READ[encoding.type];
  const isLittleEndian = !encoding.isBigEndian;
  const width = sampleBytes(encoding);
  const stride = width * channels.length;
  let nonFinite = 0;
  channels.forEach((samples, channel) => {
    for (let i = 0, at = channel * width; i < frames; i++, at += stride) {
      samples[i] = read(data, at, isLittleEndian);
      if (Number.isFinite(samples[i])) continue;
      samples[i] = 0;
      nonFinite++;
    }
  });
  return nonFinite;
}
