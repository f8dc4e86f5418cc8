import { UnpackKernel } from '@/kernels/pcm-kernel';
import type { ByteSource } from './bytes';
import { readPcmHeader } from './open-pcm';
import type { PcmHeader } from './pcm-header';

/** Frames of one read: some hundred kilobytes, so that memory stays small and calls stay few. */
export const PIECE_FRAMES = 32_768;

/** Streams a file's frames from first to last, as planar samples. */
export class PcmReader {
  /** Samples so far that were not a number or infinite; they were read as silence. */
  nonFiniteSamples = 0;
  readonly #source: ByteSource;
  readonly #kernel: UnpackKernel;
  readonly #pieceFrames: number;
  #frame = 0;

  private constructor(
    source: ByteSource,
    readonly header: PcmHeader,
    pieceFrames: number,
  ) {
    this.#source = source;
    const frames = Math.min(pieceFrames, header.format.frames);
    this.#pieceFrames = Math.min(pieceFrames, PIECE_FRAMES);
    this.#kernel = new UnpackKernel(header.encoding, header.format.channels, frames);
  }

  /**
   * Reads the header; throws an AppError where it is not one that can be read.
   *
   * @param pieceFrames of one call of `next`, at most, and no more than usual: nothing that is made of a file depends on it
   */
  static async open(source: ByteSource, fileName: string, pieceFrames = PIECE_FRAMES): Promise<PcmReader> {
    return new PcmReader(source, await readPcmHeader(source, fileName), pieceFrames);
  }

  /** Of a file whose header has been read. */
  static of(source: ByteSource, header: PcmHeader): PcmReader {
    return new PcmReader(source, header, PIECE_FRAMES);
  }

  /** Position of the next frame. */
  get frame(): number {
    return this.#frame;
  }

  /** Goes to a frame, which is the next to be read. */
  seek(frame: number): void {
    this.#frame = frame;
  }

  /**
   * The next frames, or undefined at the end. The arrays are used again by the next call, and hold `frames` samples.
   * A file that has become shorter since it was opened ends early.
   */
  async next(): Promise<{ channels: readonly Float32Array[]; frames: number } | undefined> {
    const { format, dataOffset, frameBytes } = this.header;
    const wanted = Math.min(this.#pieceFrames, format.frames - this.#frame);
    if (wanted <= 0) return undefined;
    const target = this.#kernel.bytes.subarray(0, wanted * frameBytes);
    const read = await this.#source.read(target, dataOffset + this.#frame * frameBytes);
    const frames = Math.floor(read / frameBytes);
    if (frames === 0) return undefined;
    this.nonFiniteSamples += this.#kernel.unpack(frames);
    this.#frame += frames;
    return { channels: this.#kernel.channels, frames };
  }
}
