import type { MessagePort } from 'node:worker_threads';
import { AppError, type ErrorRecord, toErrorRecord } from '@/core/errors/app-error';
import { type Segment, segmentAt, segmentCount } from '@/core/loudness/segment';
import type { PcmHeader } from '@/formats/pcm-header';
import { type FrameReader, MeterKernel } from '@/kernels/meter-kernel';

/** How threads share one file: each takes the next segments from a counter in shared memory until none is left. */
export interface SegmentWorkers {
  /** The next segment that nobody has taken, and how many the thread that leads has put in order; as two int32. */
  next: SharedArrayBuffer;
  /** Of the thread that leads, to each of its helpers; of a helper, to the thread that leads. */
  ports: MessagePort[];
}

/** Segments that a helper may be ahead of what has been put in order: what waits for a busy thread stays small. */
const MOST_AHEAD = 8;
/** A helper that waits in vain goes on after so long: more memory is better than no result. */
const MOST_WAIT_MS = 10_000;

export function newCounters(): SharedArrayBuffer {
  return new SharedArrayBuffer(8);
}

/** Tells the helpers that one more segment has been put in order. */
export function tellInOrder(next: SharedArrayBuffer): void {
  const counters = new Int32Array(next);
  Atomics.add(counters, 1, 1);
  Atomics.notify(counters, 1);
}

function waitUntilNear(next: SharedArrayBuffer, index: number): void {
  const counters = new Int32Array(next);
  for (let done = Atomics.load(counters, 1); index - done > MOST_AHEAD; done = Atomics.load(counters, 1)) {
    if (Atomics.wait(counters, 1, done, MOST_WAIT_MS) === 'timed-out') return;
  }
}

type HelperMessage = { index: number; segment: Segment } | { error: ErrorRecord };

/** Measures segments of a file that nobody has taken yet, and hands each on. Returns when none is left. */
export async function takeSegments(
  read: FrameReader,
  { format, encoding }: PcmHeader,
  next: SharedArrayBuffer,
  handOn: (index: number, segment: Segment) => void | Promise<void>,
): Promise<void> {
  const { sampleRateHz, channels, frames } = format;
  const kernel = new MeterKernel({ sampleRateHz, channels, encoding });
  const counter = new Int32Array(next);
  const count = segmentCount(sampleRateHz, frames);
  for (;;) {
    const first = Atomics.add(counter, 0, kernel.segmentsAtOnce);
    if (first >= count) return;
    const indices = Array.from({ length: Math.min(kernel.segmentsAtOnce, count - first) }, (_, i) => first + i);
    const parts = indices.map((index) => segmentAt(index, sampleRateHz, frames));
    const segments = kernel.measure(read, parts, frames);
    for (const [i, segment] of segments.entries()) await handOn(indices[i] ?? 0, segment);
  }
}

/** A helper's part: its segments go to the thread that leads, without being copied. */
export async function help(
  read: FrameReader,
  header: PcmHeader,
  next: SharedArrayBuffer,
  port: MessagePort,
): Promise<void> {
  try {
    await takeSegments(read, header, next, (index, segment) => {
      waitUntilNear(next, index);
      port.postMessage({ index, segment } satisfies HelperMessage, buffersOf(segment));
    });
  } catch (error) {
    port.postMessage({ error: toErrorRecord(error) } satisfies HelperMessage);
  }
}

/** Puts segments in order, wherever they come from, and waits for those that others still measure. */
export class SegmentInbox {
  readonly #take: (segment: Segment) => void;
  readonly #count: number;
  readonly #early = new Map<number, Segment>();
  #nextIndex = 0;
  #helpers: number;
  #settle: { resolve: () => void; reject: (error: unknown) => void } | undefined;
  #failure: unknown;

  constructor(header: PcmHeader, ports: readonly MessagePort[], take: (segment: Segment) => void) {
    this.#take = take;
    this.#count = segmentCount(header.format.sampleRateHz, header.format.frames);
    this.#helpers = ports.length;
    for (const port of ports) {
      port.on('close', () => {
        this.#helpers--;
        this.#failIfLost();
      });
      port.on('message', (message: HelperMessage) => {
        if ('error' in message) this.#fail(new AppError('worker-died', { reason: message.error.happened }));
        else this.put(message.index, message.segment);
      });
    }
  }

  put(index: number, segment: Segment): void {
    this.#early.set(index, segment);
    try {
      for (let ready = this.#early.get(this.#nextIndex); ready; ready = this.#early.get(this.#nextIndex)) {
        this.#early.delete(this.#nextIndex++);
        this.#take(ready);
      }
    } catch (error) {
      this.#fail(error);
    }
    if (this.#nextIndex === this.#count) this.#settle?.resolve();
  }

  /** Resolves when every segment has been taken; rejects with what went wrong anywhere. */
  whenComplete(): Promise<void> {
    if (this.#failure) return Promise.reject(this.#failure);
    if (this.#nextIndex === this.#count) return Promise.resolve();
    return new Promise((resolve, reject) => {
      this.#settle = { resolve, reject };
      this.#failIfLost();
    });
  }

  /** Throws what has gone wrong so far. */
  check(): void {
    if (this.#failure) throw this.#failure;
  }

  /** When all that can still come has come, what is missing is lost with a helper that has died. */
  #failIfLost(): void {
    if (!this.#settle || this.#helpers > 0 || this.#nextIndex === this.#count) return;
    this.#fail(new AppError('worker-died', { reason: 'a thread that helped has ended' }));
  }

  #fail(error: unknown): void {
    this.#failure ??= error;
    this.#settle?.reject(error);
  }
}

function buffersOf({ channels }: Segment): ArrayBuffer[] {
  return channels.flatMap(({ ticks, tickSquares, truePeaks, truePeakFrames, waveform }) =>
    [ticks, tickSquares, truePeaks, truePeakFrames, ...(waveform ? [waveform.min, waveform.max] : [])].map(
      ({ buffer }) => buffer as ArrayBuffer,
    ),
  );
}
