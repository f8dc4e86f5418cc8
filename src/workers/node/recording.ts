import { type FileHandle, open } from 'node:fs/promises';
import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { type GrowingLayout, type GrowingSink, GrowingWav } from '@/formats/wav/growing-wav';
import { fileError } from './file-bytes';

/** The file states what has come at least so often. */
const COMMITTED_EACH_SECONDS = 0.25;
/** So much may wait for a disk that is slow. */
const MOST_WAITING_SECONDS = 60;

/**
 * A line that is kept in a file while it sounds. The file has its name from the start and is whole at every moment: killed at any time, all
 * but the last second is there. It never replaces one that is there. The line does not wait for the disk.
 */
export class Recording {
  readonly path: string;
  readonly #wav: GrowingWav;
  readonly #sink: RecordingSink;
  readonly #layout: GrowingLayout;
  /** What waits, in order, each of its own length; and the work at it. */
  #waiting: (readonly Float32Array[])[] = [];
  #waitingFrames = 0;
  #writing: Promise<void> | undefined;
  #sinceCommit = 0;
  #failure: AppError | undefined;

  private constructor(path: string, sink: RecordingSink, wav: GrowingWav, layout: GrowingLayout) {
    this.path = path;
    this.#sink = sink;
    this.#wav = wav;
    this.#layout = layout;
  }

  /** Throws `file-exists`, `not-writable`. */
  static async create(path: string, layout: GrowingLayout): Promise<Recording> {
    const sink = await RecordingSink.create(path);
    try {
      return new Recording(path, sink, await GrowingWav.create(sink, layout), layout);
    } catch (error) {
      await sink.close();
      throw fileError(error, basename(path), 'not-writable');
    }
  }

  /** Why nothing more is kept, where that is so; what came before is. */
  get failure(): AppError | undefined {
    return this.#failure;
  }

  get committedFrames(): number {
    return this.#wav.committedFrames;
  }

  get clippedSamples(): number {
    return this.#wav.clippedSamples;
  }

  /** Keeps frames; they are copied, and written behind those before. */
  add(channels: readonly Float32Array[], frames: number): void {
    if (this.#failure) return;
    const { sampleRateHz } = this.#layout;
    if (this.#waitingFrames > MOST_WAITING_SECONDS * sampleRateHz) {
      this.#failure = new AppError('not-writable', { fileName: basename(this.path), reason: 'the disk is too slow' });
      return;
    }
    this.#waiting.push(channels.map((samples) => samples.slice(0, frames)));
    this.#waitingFrames += frames;
    this.#writing ??= this.#write().finally(() => {
      this.#writing = undefined;
    });
  }

  /** Writes what waits, all of it at once, until nothing does. */
  async #write(): Promise<void> {
    try {
      while (this.#waiting.length > 0) {
        const [parts, frames] = [this.#waiting, this.#waitingFrames];
        [this.#waiting, this.#waitingFrames] = [[], 0];
        await this.#wav.write(joined(parts, frames), frames);
        this.#sinceCommit += frames;
        if (this.#sinceCommit < COMMITTED_EACH_SECONDS * this.#layout.sampleRateHz) continue;
        this.#sinceCommit = 0;
        await this.#wav.commit();
        this.#sink.syncSoon();
      }
    } catch (error) {
      this.#fail(error);
    }
  }

  /** Has the file state what is in it, and closes it. */
  async finish(): Promise<void> {
    await this.#writing;
    try {
      // On a disk that is full there may be no room for so much as a last byte.
      await (this.#failure ? this.#wav.commit() : this.#wav.finish());
    } catch (error) {
      this.#fail(error);
    }
    await this.#sink.close().catch((error) => this.#fail(error));
  }

  #fail(error: unknown): void {
    this.#failure ??= fileError(error, basename(this.path), 'not-writable');
  }
}

/** Parts of a line, one behind the other, by channel. */
function joined(parts: readonly (readonly Float32Array[])[], frames: number): readonly Float32Array[] {
  const [first = []] = parts;
  if (parts.length === 1) return first;
  return first.map((_, c) => {
    const all = new Float32Array(frames);
    let at = 0;
    for (const part of parts) {
      const samples = part[c] as Float32Array;
      all.set(samples, at);
      at += samples.length;
    }
    return all;
  });
}

class RecordingSink implements GrowingSink {
  #end = 0;
  #syncing: Promise<void> | undefined;

  private constructor(private readonly handle: FileHandle) {}

  static async create(path: string): Promise<RecordingSink> {
    try {
      return new RecordingSink(await open(path, 'wx+'));
    } catch (error) {
      throw fileError(error, basename(path), 'not-writable');
    }
  }

  async write(bytes: Uint8Array): Promise<void> {
    for (let at = 0; at < bytes.length; ) {
      const { bytesWritten } = await this.handle.write(bytes, at, bytes.length - at, this.#end);
      at += bytesWritten;
      this.#end += bytesWritten;
    }
  }

  async overwrite(bytes: Uint8Array, offset: number): Promise<void> {
    await this.handle.write(bytes, 0, bytes.length, offset);
  }

  /** Has the system bring what was written to the disk, which nothing waits for. What it fails at, the next write fails at too. */
  syncSoon(): void {
    this.#syncing ??= this.handle
      .datasync()
      .catch(() => undefined)
      .finally(() => {
        this.#syncing = undefined;
      });
  }

  /** Makes sure that all is on the disk, then closes. */
  async close(): Promise<void> {
    await this.#syncing;
    try {
      await this.handle.datasync();
    } finally {
      await this.handle.close();
    }
  }
}
