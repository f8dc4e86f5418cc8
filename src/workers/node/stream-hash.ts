import { createHash } from 'node:crypto';
import { resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { AppError } from '@/core/errors/app-error';
import { fileError } from './file-bytes';

/** Buffers go to the thread full, and come back to be filled again: what waits never grows. */
const BUFFER_BYTES = 1_000_000;
const BUFFERS = 3;

/** So many threads hash, however many streams there are: what each is given is done before more of it is read. */
const MOST_THREADS = 2;

type Bytes = Uint8Array<ArrayBuffer>;
export type HashOrder = { id: number } & ({ buffer: Bytes; length: number } | { end: 'digest' | 'forget' });
export type HashAnswer = { id: number } & ({ buffer: Bytes } | { sha256: string });

interface Listener {
  onAnswer: (answer: HashAnswer) => void;
  onFailure: (failure: AppError) => void;
}

/** A thread and the streams that it hashes. It ends with the last of them. */
class HashThread {
  readonly listeners = new Map<number, Listener>();
  readonly #worker: Worker;

  constructor(bundlePath: string, onEnd: () => void) {
    this.#worker = new Worker(resolve(/*turbopackIgnore: true*/ bundlePath));
    this.#worker.on('message', (answer: HashAnswer) => this.listeners.get(answer.id)?.onAnswer(answer));
    this.#worker.on('error', (error) => {
      onEnd();
      const failure = new AppError('worker-died', { reason: error.message }, { cause: error });
      for (const { onFailure } of this.listeners.values()) onFailure(failure);
    });
  }

  post(order: HashOrder): void {
    this.#worker.postMessage(order, 'buffer' in order ? [order.buffer.buffer] : []);
  }

  async end(): Promise<void> {
    await this.#worker.terminate();
  }
}

/** The threads of this process, by what they run. */
const threads = new Map<string, Set<HashThread>>();
let lastId = 0;

/** The thread that has the least to do; another one while there are few. */
function threadFor(bundlePath: string): HashThread {
  const running = threads.get(bundlePath) ?? new Set();
  threads.set(bundlePath, running);
  const [leastBusy] = [...running].sort((a, b) => a.listeners.size - b.listeners.size);
  if (leastBusy && (leastBusy.listeners.size === 0 || running.size >= MOST_THREADS)) return leastBusy;
  const thread = new HashThread(bundlePath, () => running.delete(thread));
  running.add(thread);
  return thread;
}

/**
 * SHA-256 of bytes as they come, in a thread as soon as there is more than one buffer of them: to pass so few on takes longer than to hash
 * them. Close it when done, whatever has happened.
 */
export class StreamHash {
  readonly #bundlePath: string;
  readonly #id = ++lastId;
  readonly #free: Bytes[] = [];
  #made = 0;
  /** The first buffer, while there is no thread to hash it. */
  #first: Bytes | undefined;
  #thread: HashThread | undefined;
  #sha256: string | undefined;
  #failure: AppError | undefined;
  #changed: () => void = () => undefined;

  /** @param bundlePath the built thread, relative to the working folder */
  constructor(bundlePath = 'dist/hash-thread.mjs') {
    this.#bundlePath = bundlePath;
  }

  /** A buffer to fill, once one is free. Throws `worker-died`. */
  async buffer(): Promise<Bytes> {
    if (this.#free.length === 0 && this.#made < BUFFERS) {
      this.#made++;
      return new Uint8Array(BUFFER_BYTES);
    }
    await this.#until(() => this.#free.length > 0);
    return this.#free.pop() as Bytes;
  }

  /** Hashes the first bytes of a buffer, which is then not to be touched. */
  update(buffer: Bytes, length: number): void {
    if (!this.#thread && !this.#first) {
      this.#first = buffer.subarray(0, length);
      return;
    }
    this.#thread ??= this.#start();
    this.#thread.post({ id: this.#id, buffer, length });
  }

  /** The hash of everything, as hexadecimal digits. Throws `worker-died`. */
  async digest(): Promise<string> {
    if (!this.#thread)
      return createHash('sha256')
        .update(this.#first ?? new Uint8Array())
        .digest('hex');
    this.#thread.post({ id: this.#id, end: 'digest' });
    await this.#until(() => this.#sha256 !== undefined);
    return this.#sha256 as string;
  }

  async close(): Promise<void> {
    const thread = this.#thread;
    if (!thread?.listeners.delete(this.#id)) return;
    this.#thread = undefined;
    if (thread.listeners.size > 0) {
      thread.post({ id: this.#id, end: 'forget' });
      return;
    }
    threads.get(this.#bundlePath)?.delete(thread);
    await thread.end();
  }

  #start(): HashThread {
    const thread = threadFor(this.#bundlePath);
    thread.listeners.set(this.#id, {
      onAnswer: (answer) => {
        if ('buffer' in answer) this.#free.push(answer.buffer);
        else this.#sha256 = answer.sha256;
        this.#changed();
      },
      onFailure: (failure) => {
        this.#failure = failure;
        this.#changed();
      },
    });
    const first = this.#first as Bytes;
    thread.post({ id: this.#id, buffer: first, length: first.length });
    return thread;
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
