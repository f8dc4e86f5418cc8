import { resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { ErrorRecord } from '@/core/errors/app-error';
import type { FileReport } from '../protocol';

export type FollowOrder = { frames: number } | { analysisPath: string };
export type FollowAnswer = { report: Omit<FileReport, 'sha256'> } | { error: ErrorRecord };

/** A recording that is measured while it grows, in a thread of its own. Whatever goes wrong, it is measured afterwards as any file. */
export class FollowedFile {
  readonly #worker: Worker;
  readonly #answer: Promise<Omit<FileReport, 'sha256'> | undefined>;

  /** @param bundlePath the built thread, relative to the working folder */
  constructor(path: string, fileName: string, bundlePath = 'dist/follow-thread.mjs') {
    this.#worker = new Worker(resolve(/*turbopackIgnore: true*/ bundlePath), { workerData: { path, fileName } });
    this.#answer = new Promise((done) => {
      this.#worker.once('message', (answer: FollowAnswer) => done('report' in answer ? answer.report : undefined));
      this.#worker.once('error', () => done(undefined));
      this.#worker.once('exit', () => done(undefined));
    });
  }

  /** Says how many frames the file has by now. */
  grown(frames: number): void {
    this.#worker.postMessage({ frames } satisfies FollowOrder);
  }

  /** Nobody asks for what it reads. */
  discard(): void {
    void this.#worker.terminate();
  }

  /** What is read of all of it, once nothing is added any more; undefined where it has to be measured afterwards. */
  async finish(analysisPath: string): Promise<Omit<FileReport, 'sha256'> | undefined> {
    this.#worker.postMessage({ analysisPath } satisfies FollowOrder);
    const report = await this.#answer;
    await this.#worker.terminate();
    return report;
  }
}
