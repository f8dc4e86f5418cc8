import type { ByteSink } from '../bytes';
import { Packer } from '../pack';
import { frameBytes, WRITTEN_BIT_DEPTH } from '../pcm-writer';
import { type WavLayout, wavHeader } from './writer';

/** Takes bytes in order, and others in the place of those that it has. */
export interface GrowingSink extends ByteSink {
  /** Puts bytes over those that stand at an offset, in one call of the system. */
  overwrite(bytes: Uint8Array, offset: number): Promise<void>;
}

/** What a recording is written as. */
export type GrowingLayout = Pick<WavLayout, 'sampleRateHz' | 'channels' | 'channelMask'> & { bitDepth?: 24 | 32 };

/**
 * A WAV that is written while it is heard, and is a whole file at every moment: its sizes state what was committed last, and never more
 * than was written. Beyond 4 GiB it becomes a BW64 (ITU-R BS.2088, from memory).
 */
export class GrowingWav {
  readonly #sink: GrowingSink;
  readonly #layout: GrowingLayout;
  readonly #packer: Packer;
  #bytes = new Uint8Array(0);
  #frames = 0;
  #committedFrames = 0;

  private constructor(sink: GrowingSink, layout: GrowingLayout) {
    const { channels, bitDepth = WRITTEN_BIT_DEPTH } = layout;
    this.#sink = sink;
    this.#layout = layout;
    this.#packer = new Packer({ bitDepth, channels, isBigEndian: false });
  }

  /** Writes what stands ahead of the samples, of which there are none yet. */
  static async create(sink: GrowingSink, layout: GrowingLayout): Promise<GrowingWav> {
    const wav = new GrowingWav(sink, layout);
    await sink.write(wav.#header(0));
    return wav;
  }

  /** Frames that the file states. */
  get committedFrames(): number {
    return this.#committedFrames;
  }

  /** Samples that stood beyond full scale and had to be held at it. */
  get clippedSamples(): number {
    return this.#packer.clippedSamples;
  }

  /** Adds planar frames; the file does not state them before they are committed. */
  async write(channels: readonly Float32Array[], frames: number): Promise<void> {
    const length = frames * frameBytes({ ...this.#layout, frames });
    if (this.#bytes.length < length) this.#bytes = new Uint8Array(length);
    this.#packer.pack(channels, frames, 1, this.#bytes);
    await this.#sink.write(this.#bytes.subarray(0, length));
    this.#frames += frames;
  }

  /** Has the file state all that was written; but one frame, where its chunk would end at an odd byte. */
  commit(): Promise<void> {
    const isOdd = (this.#frames * frameBytes({ ...this.#layout, frames: 0 })) % 2 === 1;
    return this.#commit(this.#frames - (isOdd ? 1 : 0));
  }

  /** Has it state every frame; nothing is written after that. */
  async finish(): Promise<void> {
    if ((this.#frames * frameBytes({ ...this.#layout, frames: 0 })) % 2 === 1)
      await this.#sink.write(new Uint8Array(1));
    await this.#commit(this.#frames);
  }

  async #commit(frames: number): Promise<void> {
    if (frames === this.#committedFrames) return;
    await this.#sink.overwrite(this.#header(frames), 0);
    this.#committedFrames = frames;
  }

  #header(frames: number): Uint8Array {
    return wavHeader({ ...this.#layout, frames, isGrowing: true });
  }
}
