import { performance } from 'node:perf_hooks';
import { AppError } from '@/core/errors/app-error';
import type { Progress } from '../protocol';

const REPORT_EVERY_MS = 100;

export interface RunOptions {
  /** Frames that are taken at a time, at most: no result depends on it. */
  pieceFrames?: number | undefined;
  signal?: AbortSignal | undefined;
  onProgress?: ((progress: Progress) => void) | undefined;
}

/** Reports how far a run over frames has come, ten times a second, and stops it when it is cancelled. */
export class ProgressReporter {
  readonly #options: RunOptions;
  readonly #totalFrames: number;
  readonly #sampleRateHz: number;
  readonly #startedMs = performance.now();
  #reportedMs = this.#startedMs;

  constructor(totalFrames: number, sampleRateHz: number, options: RunOptions) {
    this.#totalFrames = totalFrames;
    this.#sampleRateHz = sampleRateHz;
    this.#options = options;
  }

  /** Call once for every piece. Throws `cancelled` when the signal says so. */
  at(frame: number): void {
    if (this.#options.signal?.aborted) throw new AppError('cancelled', {});
    const nowMs = performance.now();
    if (nowMs - this.#reportedMs < REPORT_EVERY_MS) return;
    this.#reportedMs = nowMs;
    const audioSeconds = frame / this.#sampleRateHz;
    this.#options.onProgress?.({
      fraction: frame / this.#totalFrames,
      timesRealTime: audioSeconds / ((nowMs - this.#startedMs) / 1000),
    });
  }
}
