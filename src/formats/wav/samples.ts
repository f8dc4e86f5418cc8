/** Interleaved little-endian samples ↔ planar Float32, for the depths that a WAV is read and written in. */

/**
 * Unpacks `frames` frames of interleaved bytes into planar channels. Integers are scaled so that full scale is 1.0.
 * Samples that are not a number or infinite become silence.
 *
 * @param containerBits 16, 24 or 32 for integers, 32 for floats
 * @returns how many samples were not finite
 */
export function unpack(
  bytes: Uint8Array,
  frames: number,
  containerBits: number,
  sampleFormat: 'integer' | 'float',
  channels: readonly Float32Array[],
): number {
  const data = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const sampleBytes = containerBits / 8;
  const frameBytes = sampleBytes * channels.length;
  let nonFinite = 0;
  channels.forEach((samples, channel) => {
    const start = channel * sampleBytes;
    if (sampleFormat === 'float') nonFinite += unpackFloat32(data, start, frameBytes, frames, samples);
    else if (containerBits === 16) unpackInt16(data, start, frameBytes, frames, samples);
    else if (containerBits === 24) unpackInt24(bytes, start, frameBytes, frames, samples);
    else unpackInt32(data, start, frameBytes, frames, samples);
  });
  return nonFinite;
}

function unpackInt16(data: DataView, start: number, stride: number, frames: number, samples: Float32Array): void {
  for (let i = 0, at = start; i < frames; i++, at += stride) samples[i] = data.getInt16(at, true) / 0x8000;
}

function unpackInt24(bytes: Uint8Array, start: number, stride: number, frames: number, samples: Float32Array): void {
  for (let i = 0, at = start; i < frames; i++, at += stride) {
    const low = (bytes[at] as number) << 8;
    const middle = (bytes[at + 1] as number) << 16;
    const high = (bytes[at + 2] as number) << 24;
    samples[i] = (high | middle | low) / 0x80000000;
  }
}

function unpackInt32(data: DataView, start: number, stride: number, frames: number, samples: Float32Array): void {
  for (let i = 0, at = start; i < frames; i++, at += stride) samples[i] = data.getInt32(at, true) / 0x80000000;
}

function unpackFloat32(data: DataView, start: number, stride: number, frames: number, samples: Float32Array): number {
  let nonFinite = 0;
  for (let i = 0, at = start; i < frames; i++, at += stride) {
    const value = data.getFloat32(at, true);
    if (Number.isFinite(value)) {
      samples[i] = value;
    } else {
      samples[i] = 0;
      nonFinite++;
    }
  }
  return nonFinite;
}

const INT24_SCALE = 0x800000;
const INT24_MOST = 0x7fffff;

/**
 * Packs planar samples, each times `amplitude`, as interleaved 24-bit integers, rounded to the nearest and never
 * dithered.
 *
 * @returns how many samples stood beyond full scale and had to be held at it
 */
export function packInt24(
  channels: readonly Float32Array[],
  frames: number,
  amplitude: number,
  bytes: Uint8Array,
): number {
  const stride = 3 * channels.length;
  let clipped = 0;
  channels.forEach((samples, channel) => {
    for (let i = 0, at = channel * 3; i < frames; i++, at += stride) {
      let value = Math.round((samples[i] as number) * amplitude * INT24_SCALE);
      if (value > INT24_MOST || value < -INT24_SCALE) {
        // Exactly +1.0 has no 24-bit code; one step less is its rounding, not a clipped sample.
        if (value !== INT24_SCALE) clipped++;
        value = value > 0 ? INT24_MOST : -INT24_SCALE;
      }
      bytes[at] = value & 0xff;
      bytes[at + 1] = (value >> 8) & 0xff;
      bytes[at + 2] = (value >> 16) & 0xff;
    }
  });
  return clipped;
}
