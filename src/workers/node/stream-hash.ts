import { resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { AppError } from '@/core/errors/app-error';

/** Buffers go to the thread full, and come back to be filled again: what waits never grows. */
const BUFFER_BYTES = 1_000_000;
const BUFFERS = 3;

type Bytes = Uint8Array<ArrayBuffer>;
export type HashOrder = { buffer: Bytes; length: number } | 'digest';
export type HashAnswer = { buffer: Bytes } | { sha256: string };

/** SHA-256 of bytes as they come, in a thread of its own. Close it when done, whatever has happened. */
export class StreamHash {
  readonly #worker: Worker;
  readonly #free = Array.from({ length: BUFFERS }, (): Bytes => new Uint8Array(BUFFER_BYTES));
  #sha256: string | undefined;
  #failure: AppError | undefined;
  #changed: () => void = () => undefined;

  /** @param bundlePath the built thread, relative to the working folder */
  constructor(bundlePath = 'dist/hash-thread.mjs') {
    this.#worker = new Worker(resolve(/*turbopackIgnore: true*/ bundlePath));
    this.#worker.on('message', (answer: HashAnswer) => {
      if ('buffer' in answer) this.#free.push(answer.buffer);
      else this.#sha256 = answer.sha256;
      this.#changed();
    });
    this.#worker.on('error', (error) => {
      this.#failure = new AppError('worker-died', { reason: error.message }, { cause: error });
      this.#changed();
    });
  }

  /** A buffer to fill, once one is free. Throws `worker-died`. */
  async buffer(): Promise<Bytes> {
    await this.#until(() => this.#free.length > 0);
    return this.#free.pop() as Bytes;
  }

  /** Hashes the first bytes of a buffer, which is then not to be touched. */
  update(buffer: Bytes, length: number): void {
    this.#worker.postMessage({ buffer, length } satisfies HashOrder, [buffer.buffer]);
  }

  /** The hash of everything, as hexadecimal digits. */
  async digest(): Promise<string> {
    this.#worker.postMessage('digest' satisfies HashOrder);
    await this.#until(() => this.#sha256 !== undefined);
    return this.#sha256 as string;
  }

  async close(): Promise<void> {
    await this.#worker.terminate();
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
