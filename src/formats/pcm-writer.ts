import type { Dither } from '@/core/treatment/steps/dither';
import type { ByteSink } from './bytes';
import { Packer, type WrittenDepth } from './pack';

/** The depth of what is written unless another is asked for. */
export const WRITTEN_BIT_DEPTH = 24;

/** What every writer of PCM has to know beforehand. */
export interface PcmLayout {
  sampleRateHz: number;
  channels: number;
  frames: number;
  /** 24 unless it is stated; 32 is float. */
  bitDepth?: WrittenDepth;
  /** None unless it is stated. */
  dither?: Dither;
  /** It falls silent in digital silence, unless it is said not to. */
  isDitherSilenced?: boolean | undefined;
}

export function frameBytes({ channels, bitDepth = WRITTEN_BIT_DEPTH }: PcmLayout): number {
  return (channels * bitDepth) / 8;
}

export function dataBytes(layout: PcmLayout): number {
  return layout.frames * frameBytes(layout);
}

/** Writes frames behind a header that has been written. */
export class PcmWriter {
  readonly #sink: ByteSink;
  readonly #layout: PcmLayout;
  readonly #packer: Packer;
  #bytes = new Uint8Array(0);
  #frames = 0;

  constructor(sink: ByteSink, layout: PcmLayout, isBigEndian: boolean) {
    const { channels, bitDepth = WRITTEN_BIT_DEPTH, dither, isDitherSilenced } = layout;
    this.#sink = sink;
    this.#layout = layout;
    this.#packer = new Packer({ bitDepth, channels, dither, isDitherSilenced, isBigEndian });
  }

  /** Samples that stood beyond full scale and had to be held at it. */
  get clippedSamples(): number {
    return this.#packer.clippedSamples;
  }

  /** Writes planar frames, each sample times `amplitude`. */
  async write(channels: readonly Float32Array[], frames: number, amplitude: number): Promise<void> {
    const width = frameBytes(this.#layout);
    const length = (frames + this.#packer.mostHeld) * width;
    if (this.#bytes.length < length) this.#bytes = new Uint8Array(length);
    const packed = this.#packer.pack(channels, frames, amplitude, this.#bytes);
    this.#frames += frames;
    if (packed > 0) await this.#sink.write(this.#bytes.subarray(0, packed * width));
  }

  /** Pads the data to an even length. Every frame that was announced must have been written. */
  async finish(): Promise<void> {
    if (this.#frames !== this.#layout.frames) {
      throw new RangeError(`${this.#frames} frames were written where ${this.#layout.frames} were announced`);
    }
    const width = frameBytes(this.#layout);
    const rest = new Uint8Array(this.#packer.mostHeld * width);
    const held = this.#packer.flush(rest);
    if (held > 0) await this.#sink.write(rest.subarray(0, held * width));
    if (dataBytes(this.#layout) % 2 === 1) await this.#sink.write(new Uint8Array(1));
  }
}
