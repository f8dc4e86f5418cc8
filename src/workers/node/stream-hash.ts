import { createHash } from 'node:crypto';
import { resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { AppError } from '@/core/errors/app-error';
import { fileError } from './file-bytes';

/** Buffers go to the thread full, and come back to be filled again: what waits never grows. */
const BUFFER_BYTES = 1_000_000;
const BUFFERS = 3;

type Bytes = Uint8Array<ArrayBuffer>;
export type HashOrder = { buffer: Bytes; length: number } | 'digest';
export type HashAnswer = { buffer: Bytes } | { sha256: string };

/**
 * SHA-256 of bytes as they come, in a thread of its own as soon as there is more than one buffer of them: to start one takes longer than
 * to hash so few. Close it when done, whatever has happened.
 */
export class StreamHash {
  readonly #bundlePath: string;
  readonly #free = Array.from({ length: BUFFERS }, (): Bytes => new Uint8Array(BUFFER_BYTES));
  /** The first buffer, while there is no thread to hash it. */
  #first: Bytes | undefined;
  #worker: Worker | undefined;
  #sha256: string | undefined;
  #failure: AppError | undefined;
  #changed: () => void = () => undefined;

  /** @param bundlePath the built thread, relative to the working folder */
  constructor(bundlePath = 'dist/hash-thread.mjs') {
    this.#bundlePath = bundlePath;
  }

  /** A buffer to fill, once one is free. Throws `worker-died`. */
  async buffer(): Promise<Bytes> {
    await this.#until(() => this.#free.length > 0);
    return this.#free.pop() as Bytes;
  }

  /** Hashes the first bytes of a buffer, which is then not to be touched. */
  update(buffer: Bytes, length: number): void {
    if (!this.#worker && !this.#first) {
      this.#first = buffer.subarray(0, length);
      return;
    }
    this.#worker ??= this.#start();
    this.#worker.postMessage({ buffer, length } satisfies HashOrder, [buffer.buffer]);
  }

  /** The hash of everything, as hexadecimal digits. Throws `worker-died`. */
  async digest(): Promise<string> {
    if (!this.#worker)
      return createHash('sha256')
        .update(this.#first ?? new Uint8Array())
        .digest('hex');
    this.#worker.postMessage('digest' satisfies HashOrder);
    await this.#until(() => this.#sha256 !== undefined);
    return this.#sha256 as string;
  }

  async close(): Promise<void> {
    await this.#worker?.terminate();
  }

  #start(): Worker {
    const worker = new Worker(resolve(/*turbopackIgnore: true*/ this.#bundlePath));
    worker.on('message', (answer: HashAnswer) => {
      if ('buffer' in answer) this.#free.push(answer.buffer);
      else this.#sha256 = answer.sha256;
      this.#changed();
    });
    worker.on('error', (error) => {
      this.#failure = new AppError('worker-died', { reason: error.message }, { cause: error });
      this.#changed();
    });
    const first = this.#first as Bytes;
    worker.postMessage({ buffer: first, length: first.length } satisfies HashOrder, [first.buffer]);
    return worker;
  }

  async #until(isSo: () => boolean): Promise<void> {
    while (!isSo()) {
      if (this.#failure) throw this.#failure;
      await new Promise<void>((changed) => {
        this.#changed = changed;
      });
    }
  }
}

/** The hash of a file's bytes as they are read. Throws a file's error, or `worker-died`. */
export async function hashStream(bytes: AsyncIterable<Uint8Array>, fileName: string): Promise<string> {
  const hash = new StreamHash();
  try {
    for await (const piece of bytes) {
      for (let from = 0; from < piece.length; ) {
        const buffer = await hash.buffer();
        const part = piece.subarray(from, from + buffer.length);
        buffer.set(part);
        hash.update(buffer, part.length);
        from += part.length;
      }
    }
    return await hash.digest();
  } catch (error) {
    throw fileError(error, fileName, 'file-unreadable');
  } finally {
    await hash.close();
  }
}
