import { SAMPLE_TYPES, type SampleEncoding, sampleBytes } from '@/core/units/sample-encoding';
import { PCM_WASM } from './generated/pcm-wasm';
import { instantiate, MemoryLayout } from './memory';

interface PcmExports {
  unpack(
    type: number,
    isBigEndian: boolean,
    from: number,
    stride: number,
    to: number,
    step: number,
    frames: number,
  ): number;
  packIntegers(
    bits: number,
    isBigEndian: boolean,
    from: number,
    frames: number,
    factor: number,
    to: number,
    stride: number,
  ): number;
}

const SAMPLE_BYTES = 4;

/** Interleaved bytes to planar samples in WebAssembly: the same as formats/samples unpack, bit for bit. */
export class UnpackKernel {
  readonly #encoding: SampleEncoding;
  readonly #stride: number;
  readonly #exports: PcmExports;
  /** Where the interleaved bytes of a piece go, to be unpacked. */
  readonly bytes: Uint8Array;
  /** Where its planar samples are then. */
  readonly channels: readonly Float32Array[];

  constructor(encoding: SampleEncoding, channels: number, maxFrames: number) {
    this.#encoding = encoding;
    this.#stride = sampleBytes(encoding) * channels;
    const layout = new MemoryLayout();
    const bytes = layout.reserve(this.#stride * maxFrames);
    const planar = Array.from({ length: channels }, () => layout.reserve(SAMPLE_BYTES * maxFrames));
    const { exports, memory } = instantiate<PcmExports>(PCM_WASM, layout);
    this.#exports = exports;
    this.bytes = new Uint8Array(memory, bytes, this.#stride * maxFrames);
    this.channels = planar.map((at) => new Float32Array(memory, at, maxFrames));
  }

  /** @returns how many samples were not finite; they are silence */
  unpack(frames: number): number {
    const { type, isBigEndian } = this.#encoding;
    const width = sampleBytes(this.#encoding);
    const kind = SAMPLE_TYPES.indexOf(type);
    return this.channels.reduce((nonFinite, { byteOffset }, channel) => {
      const from = this.bytes.byteOffset + channel * width;
      const step = SAMPLE_BYTES;
      return nonFinite + this.#exports.unpack(kind, isBigEndian, from, this.#stride, byteOffset, step, frames);
    }, 0);
  }
}

/** Planar samples to interleaved integers in WebAssembly: the same as formats/pack, bit for bit. */
export class PackKernel {
  readonly #bits: 16 | 24;
  readonly #isBigEndian: boolean;
  readonly #exports: PcmExports;
  readonly #samples: Float32Array;
  readonly #bytes: Uint8Array;
  readonly #channels: number;

  constructor(layoutOf: { bits: 16 | 24; channels: number; isBigEndian: boolean; maxFrames: number }) {
    const { bits, channels, isBigEndian, maxFrames } = layoutOf;
    this.#bits = bits;
    this.#channels = channels;
    this.#isBigEndian = isBigEndian;
    const layout = new MemoryLayout();
    const samples = layout.reserve(SAMPLE_BYTES * maxFrames);
    const bytes = layout.reserve((bits / 8) * channels * maxFrames);
    const { exports, memory } = instantiate<PcmExports>(PCM_WASM, layout);
    this.#exports = exports;
    this.#samples = new Float32Array(memory, samples, maxFrames);
    this.#bytes = new Uint8Array(memory, bytes, (bits / 8) * channels * maxFrames);
  }

  get maxFrames(): number {
    return this.#samples.length;
  }

  /** @returns how many samples stood beyond full scale and were held at it */
  pack(channels: readonly Float32Array[], frames: number, factor: number, target: Uint8Array): number {
    const width = this.#bits / 8;
    const stride = width * this.#channels;
    let clipped = 0;
    channels.forEach((samples, channel) => {
      this.#samples.set(samples.subarray(0, frames));
      const to = this.#bytes.byteOffset + channel * width;
      const from = this.#samples.byteOffset;
      clipped += this.#exports.packIntegers(this.#bits, this.#isBigEndian, from, frames, factor, to, stride);
    });
    target.set(this.#bytes.subarray(0, frames * stride));
    return clipped;
  }
}
