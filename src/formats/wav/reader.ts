import type { ByteSource } from '../bytes';
import { readWavHeader, type WavHeader } from './header';
import { unpack } from './samples';

/** Frames of one read: some hundred kilobytes, so that memory stays small and calls stay few. */
export const PIECE_FRAMES = 32_768;

/** Where interleaved bytes are read to, and what makes planar samples of them: plain arrays, or a kernel's memory. */
export interface Unpacker {
  /** Room for PIECE_FRAMES interleaved frames. */
  readonly bytes: Uint8Array;
  /** The samples are valid until the next call. */
  unpack(
    frames: number,
    containerBits: number,
    sampleFormat: 'integer' | 'float',
  ): { planar: readonly Float32Array[]; nonFinite: number };
}

function plainUnpacker({ frameBytes, format }: WavHeader): Unpacker {
  const bytes = new Uint8Array(PIECE_FRAMES * frameBytes);
  const planar = Array.from({ length: format.channels }, () => new Float32Array(PIECE_FRAMES));
  return {
    bytes,
    unpack: (frames, containerBits, sampleFormat) => ({
      planar,
      nonFinite: unpack(bytes, frames, containerBits, sampleFormat, planar),
    }),
  };
}

/** Streams a WAV file's frames from first to last, as planar samples. */
export class WavReader {
  /** Samples so far that were not a number or infinite; they were read as silence. */
  nonFiniteSamples = 0;
  readonly #source: ByteSource;
  readonly #unpacker: Unpacker;
  #frame = 0;

  constructor(
    source: ByteSource,
    readonly header: WavHeader,
    unpacker: Unpacker = plainUnpacker(header),
  ) {
    this.#source = source;
    this.#unpacker = unpacker;
  }

  /** Reads the header; throws an AppError where it is not one that can be read. */
  static async open(source: ByteSource, fileName: string): Promise<WavReader> {
    return new WavReader(source, await readWavHeader(source, fileName));
  }

  /** Position of the next frame. */
  get frame(): number {
    return this.#frame;
  }

  /**
   * The next frames, or undefined at the end. The arrays are used again by the next call, and hold `frames` samples.
   * A file that has become shorter since it was opened ends early.
   */
  async next(): Promise<{ channels: readonly Float32Array[]; frames: number } | undefined> {
    const { format, dataOffset, frameBytes } = this.header;
    const wanted = Math.min(PIECE_FRAMES, format.frames - this.#frame);
    if (wanted <= 0) return undefined;
    const target = this.#unpacker.bytes.subarray(0, wanted * frameBytes);
    const read = await this.#source.read(target, dataOffset + this.#frame * frameBytes);
    const frames = Math.floor(read / frameBytes);
    if (frames === 0) return undefined;
    const containerBits = (frameBytes / format.channels) * 8;
    const { planar, nonFinite } = this.#unpacker.unpack(frames, containerBits, format.sampleFormat);
    this.nonFiniteSamples += nonFinite;
    this.#frame += frames;
    return { channels: planar, frames };
  }
}
