import { availableParallelism } from 'node:os';
import { resolve } from 'node:path';
import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import { AppError, type ErrorRecord } from '@/core/errors/app-error';
import type { MeasureJob, Progress, WorkerAnswer, WorkerJob, WorkerOutcome } from '../protocol';
import { newCounters, type SegmentWorkers } from './segment-workers';
import type { WorkerOrder } from './worker';

/** An error that a worker has already put into words. */
export class WorkerError extends Error {
  constructor(readonly record: ErrorRecord) {
    super(record.happened);
  }
}

interface JobOptions {
  signal: AbortSignal;
  onProgress: (progress: Progress) => void;
}

/** Worker threads for measuring and rendering, one for each core. */
export class WorkerPool {
  readonly #piscina: Piscina;

  /**
   * Starts the threads at once, so that the first file need not wait for them.
   *
   * @param bundlePath the built worker, relative to the working folder
   */
  constructor(
    bundlePath = 'dist/worker.cjs',
    readonly size = availableParallelism(),
  ) {
    this.#piscina = new Piscina({
      filename: resolve(/*turbopackIgnore: true*/ bundlePath),
      minThreads: size,
      maxThreads: size,
      // Samples lie outside the heap: what is inside is little, and soon gone.
      resourceLimits: { maxYoungGenerationSizeMb: 8 },
    });
    // An answer that was on its way when its job was given up. Whoever waits for a job hears of its end from the job.
    this.#piscina.on('error', () => undefined);
  }

  /**
   * Runs a job in a thread; measuring is shared with whatever other threads are free. Throws WorkerError with the
   * worker's own words, `cancelled` when the signal fires (the threads are ended at once), or `worker-died`.
   */
  async run<J extends WorkerJob>(job: J, options: JobOptions): Promise<WorkerAnswer<J>> {
    if (job.kind !== 'measure') return this.#order(job, options, alone());
    return (await this.#measure(job, options)) as WorkerAnswer<J>;
  }

  close(): Promise<void> {
    return this.#piscina.destroy();
  }

  async #measure(job: MeasureJob, options: JobOptions) {
    const ending = new AbortController();
    const signal = AbortSignal.any([options.signal, ending.signal]);
    const { segmentWorkers, start } = this.#gather(job.path, job.fileName, this.size - 1, signal);
    // The thread that leads comes first, so that nobody measures ahead of it.
    const lead = this.#order(job, { ...options, signal }, segmentWorkers);
    const ended = start();
    try {
      return await lead;
    } catch (error) {
      ending.abort();
      await ended;
      throw error;
    }
  }

  #gather(path: string, fileName: string, helpers: number, signal: AbortSignal) {
    const next = newCounters();
    const channels = Array.from({ length: helpers }, () => new MessageChannel());
    const job = { kind: 'help', path, fileName } as const;
    const options = { signal, onProgress: () => undefined };
    return {
      segmentWorkers: { next, ports: channels.map(({ port1 }) => port1) },
      // Whether a helper comes too late, is cancelled or dies, the thread that leads finds out by itself.
      start: () => Promise.allSettled(channels.map(({ port2 }) => this.#order(job, options, { next, ports: [port2] }))),
    };
  }

  async #order<J extends WorkerJob>(
    job: J,
    options: JobOptions,
    segmentWorkers: SegmentWorkers,
  ): Promise<WorkerAnswer<J>> {
    const { port1, port2 } = new MessageChannel();
    port1.on('message', options.onProgress);
    const order: WorkerOrder = { job, port: port2, segmentWorkers };
    try {
      const outcome: WorkerOutcome<J> = await this.#piscina.run(order, {
        signal: options.signal,
        transferList: [port2, ...segmentWorkers.ports],
      });
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
}

function alone(): SegmentWorkers {
  return { next: newCounters(), ports: [] };
}
