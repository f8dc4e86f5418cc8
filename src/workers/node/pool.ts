import { availableParallelism } from 'node:os';
import { resolve } from 'node:path';
import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import { AppError, type ErrorRecord } from '@/core/errors/app-error';
import type { Progress, WorkerAnswer, WorkerJob, WorkerOutcome } from '../protocol';

/** An error that a worker has already put into words. */
export class WorkerError extends Error {
  constructor(readonly record: ErrorRecord) {
    super(record.happened);
  }
}

/** Worker threads for measuring and rendering, one for each core. */
export class WorkerPool {
  readonly size = availableParallelism();
  readonly #piscina: Piscina;

  /** @param bundlePath the built worker, relative to the working folder */
  constructor(bundlePath = 'dist/worker.mjs') {
    this.#piscina = new Piscina({
      filename: resolve(/*turbopackIgnore: true*/ bundlePath),
      maxThreads: this.size,
      idleTimeout: 30_000,
    });
  }

  /**
   * Runs a job in a thread. Throws WorkerError with the worker's own words, `cancelled` when the signal fires (the
   * thread is ended at once), or `worker-died`.
   */
  async run<J extends WorkerJob>(
    job: J,
    options: { signal: AbortSignal; onProgress: (progress: Progress) => void },
  ): Promise<WorkerAnswer<J>> {
    const { port1, port2 } = new MessageChannel();
    port1.on('message', options.onProgress);
    try {
      const outcome: WorkerOutcome<J> = await this.#piscina.run(
        { job, port: port2 },
        { signal: options.signal, transferList: [port2] },
      );
      if ('error' in outcome) throw new WorkerError(outcome.error);
      return outcome.answer;
    } catch (error) {
      if (error instanceof WorkerError) throw error;
      if (options.signal.aborted) throw new AppError('cancelled', {}, { cause: error });
      const reason = error instanceof Error ? error.message : String(error);
      throw new AppError('worker-died', { reason }, { cause: error });
    } finally {
      port1.close();
    }
  }

  close(): Promise<void> {
    return this.#piscina.destroy();
  }
}
