import { type Dither, Quantiser } from '@/core/treatment/steps/dither';
import { PackKernel } from '@/kernels/pcm-kernel';

/** Depths that are written: integers of 16 and 24 bits, and floats of 32. */
export const WRITTEN_DEPTHS = [16, 24, 32] as const;
export type WrittenDepth = (typeof WRITTEN_DEPTHS)[number];

/**
 * Packs planar samples as interleaved PCM, each times a factor, rounded to the nearest step; with dither, once and last.
 * Floats are neither rounded nor dithered, and may stand beyond full scale.
 */
export class Packer {
  /** Samples that stood beyond full scale and had to be held at it. */
  clippedSamples = 0;
  readonly #depth: WrittenDepth;
  readonly #isBigEndian: boolean;
  readonly #quantisers: Quantiser[];
  #kernel: PackKernel | undefined;

  constructor(layout: {
    bitDepth: WrittenDepth;
    channels: number;
    dither?: Dither | undefined;
    isDitherSilenced?: boolean | undefined;
    isBigEndian: boolean;
  }) {
    const { bitDepth, channels, dither = 'none', isDitherSilenced, isBigEndian } = layout;
    this.#depth = bitDepth;
    this.#isBigEndian = isBigEndian;
    this.#quantisers =
      dither === 'none'
        ? []
        : Array.from({ length: channels }, (_, channel) => new Quantiser(dither, channel, isDitherSilenced));
  }

  /** @param bytes with room for so many frames */
  pack(channels: readonly Float32Array[], frames: number, amplitude: number, bytes: Uint8Array): void {
    if (this.#depth === 32) packFloats(channels, frames, amplitude, bytes, !this.#isBigEndian);
    else if (this.#quantisers.length > 0) this.#packDithered(channels, frames, amplitude, bytes, this.#depth);
    else this.#packPlain(channels, frames, amplitude, bytes, this.#depth);
  }

  #packPlain(
    channels: readonly Float32Array[],
    frames: number,
    amplitude: number,
    bytes: Uint8Array,
    bits: 16 | 24,
  ): void {
    if (!this.#kernel || this.#kernel.maxFrames < frames) {
      const layout = { bits, channels: channels.length, isBigEndian: this.#isBigEndian, maxFrames: frames };
      this.#kernel = new PackKernel(layout);
    }
    this.clippedSamples += this.#kernel.pack(channels, frames, amplitude * 2 ** (bits - 1), bytes);
  }

  #packDithered(
    channels: readonly Float32Array[],
    frames: number,
    amplitude: number,
    bytes: Uint8Array,
    depth: 16 | 24,
  ): void {
    const width = depth / 8;
    const stride = width * channels.length;
    const scale = 2 ** (depth - 1);
    const factor = amplitude * scale;
    // From the lowest byte to the highest.
    const places = this.#isBigEndian ? [width - 1, width - 2, width - 3] : [0, 1, 2];
    const [low, middle, high] = places as [number, number, number];
    channels.forEach((samples, channel) => {
      const quantiser = this.#quantisers[channel] as Quantiser;
      for (let i = 0, at = channel * width; i < frames; i++, at += stride) {
        let value = quantiser.quantise((samples[i] as number) * factor);
        if (value > scale - 1 || value < -scale) {
          // Exactly +1.0 has no code; one step less is its rounding, not a clipped sample.
          if (value !== scale) this.clippedSamples++;
          value = value > 0 ? scale - 1 : -scale;
        }
        bytes[at + low] = value & 0xff;
        bytes[at + middle] = (value >> 8) & 0xff;
        if (depth === 24) bytes[at + high] = (value >> 16) & 0xff;
      }
    });
  }
}

function packFloats(
  channels: readonly Float32Array[],
  frames: number,
  amplitude: number,
  bytes: Uint8Array,
  isLittleEndian: boolean,
): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const stride = 4 * channels.length;
  channels.forEach((samples, channel) => {
    for (let i = 0, at = channel * 4; i < frames; i++, at += stride) {
      view.setFloat32(at, (samples[i] as number) * amplitude, isLittleEndian);
    }
  });
}
