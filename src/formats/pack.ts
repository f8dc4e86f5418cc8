import { type Dither, Quantiser, SILENT_FRAMES, SilenceFinder } from '@/core/treatment/steps/dither';
import { PackKernel } from '@/kernels/pcm-kernel';

/** Depths that are written: integers of 16 and 24 bits, and floats of 32. */
export const WRITTEN_DEPTHS = [16, 24, 32] as const;
export type WrittenDepth = (typeof WRITTEN_DEPTHS)[number];

/**
 * Packs planar samples as interleaved PCM, each times a factor, rounded to the nearest step; with dither, once and last.
 * Floats are neither rounded nor dithered, and may stand beyond full scale.
 *
 * Dither that falls silent in digital silence has to know how long that lasts: so many frames are held back, and come with the
 * next call or at the end.
 */
export class Packer {
  /** Samples that stood beyond full scale and had to be held at it. */
  clippedSamples = 0;
  /** Frames that may be held back at most. */
  readonly mostHeld: number;
  readonly #depth: WrittenDepth;
  readonly #isBigEndian: boolean;
  readonly #quantisers: Quantiser[];
  readonly #finders: SilenceFinder[];
  /** What is held back of each channel, and what it is to be multiplied by. */
  #held: Float32Array[];
  #heldAmplitude = 1;
  #marks = new Uint8Array(0);
  #kernel: PackKernel | undefined;

  constructor(layout: {
    bitDepth: WrittenDepth;
    channels: number;
    dither?: Dither | undefined;
    isDitherSilenced?: boolean | undefined;
    isBigEndian: boolean;
  }) {
    const { bitDepth, channels, dither = 'none', isDitherSilenced = true, isBigEndian } = layout;
    const isDithered = dither !== 'none' && bitDepth !== 32;
    const each = <T>(make: (channel: number) => T) => Array.from({ length: channels }, (_, channel) => make(channel));
    this.#depth = bitDepth;
    this.#isBigEndian = isBigEndian;
    this.#quantisers = isDithered ? each((channel) => new Quantiser(dither, channel)) : [];
    this.#finders = isDithered && isDitherSilenced ? each(() => new SilenceFinder()) : [];
    this.#held = each(() => new Float32Array(0));
    this.mostHeld = this.#finders.length > 0 ? SILENT_FRAMES : 0;
  }

  /**
   * @param bytes with room for so many frames and those that were held back
   * @returns how many frames were packed
   */
  pack(channels: readonly Float32Array[], frames: number, amplitude: number, bytes: Uint8Array): number {
    if (this.#depth === 32) packFloats(channels, frames, amplitude, bytes, !this.#isBigEndian);
    else if (this.#finders.length > 0) return this.#packHeld(channels, frames, amplitude, bytes, this.#depth);
    else if (this.#quantisers.length > 0) this.#packDithered(channels, frames, amplitude, bytes, this.#depth);
    else this.#packPlain(channels, frames, amplitude, bytes, this.#depth);
    return frames;
  }

  /** Packs what is still held back; returns how many frames that are. */
  flush(bytes: Uint8Array): number {
    const frames = this.#held[0]?.length ?? 0;
    if (frames > 0 && this.#depth !== 32)
      this.#packDithered(this.#held, frames, this.#heldAmplitude, bytes, this.#depth);
    this.#held = this.#held.map(() => new Float32Array(0));
    return frames;
  }

  #packHeld(
    channels: readonly Float32Array[],
    frames: number,
    amplitude: number,
    bytes: Uint8Array,
    depth: 16 | 24,
  ): number {
    const held = this.#held[0]?.length ?? 0;
    const all = channels.map((samples, channel) => {
      const joined = new Float32Array(held + frames);
      joined.set(this.#held[channel] as Float32Array);
      joined.set(samples.subarray(0, frames), held);
      return joined;
    });
    const packed = Math.max(0, held + frames - this.mostHeld);
    this.#packDithered(all, packed, amplitude, bytes, depth);
    this.#heldAmplitude = amplitude;
    this.#held = all.map((samples) => samples.slice(packed));
    return packed;
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
    if (this.#marks.length < frames) this.#marks = new Uint8Array(frames);
    const marks = this.#marks;
    channels.forEach((samples, channel) => {
      const quantiser = this.#quantisers[channel] as Quantiser;
      this.#finders[channel]?.find(samples, frames, marks);
      for (let i = 0, at = channel * width; i < frames; i++, at += stride) {
        let value = marks[i] === 1 ? quantiser.rest() : quantiser.quantise((samples[i] as number) * factor);
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
