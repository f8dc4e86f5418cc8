import type { ToWorklet } from './audition-messages';

/** Frames of one request; the first that is waited for is smaller. */
const PART_FRAMES = 65_536;
const FIRST_FRAMES = 8192;
/** What failed is asked for again after so long. */
const RETRY_MS = 1000;

/** A stretch of frames. */
export interface Range {
  startFrame: number;
  endFrame: number;
}

interface StreamWork {
  /** Fetches a stretch, as the message that hands it on; it may begin a little earlier than was asked for. */
  fetch(
    stretch: { startFrame: number; frames: number },
    signal: AbortSignal,
  ): Promise<{ startFrame: number; message: ToWorklet }>;
  onMessage(message: ToWorklet): void;
  onForget(startFrame: number): void;
  onFailure(error: unknown): void;
}

/** Fetches what is wanted of something along time, one part after another, and lets go of what is not. */
export class Stream {
  readonly #work: StreamWork;
  #held: (Range & { partFrame: number })[] = [];
  #loading: (Range & { abort: AbortController }) | undefined;
  #failedAtMs = Number.NEGATIVE_INFINITY;

  constructor(work: StreamWork) {
    this.#work = work;
  }

  /** @param ranges that are wanted, most urgent first */
  want(ranges: readonly Range[], frames: number): void {
    const isWanted = (held: Range) => ranges.some((range) => overlap(range, held));
    for (const held of this.#held) if (!isWanted(held)) this.#work.onForget(held.partFrame);
    this.#held = this.#held.filter(isWanted);
    if (this.#loading && !isWanted(this.#loading)) this.stop();
    if (this.#loading || performance.now() - this.#failedAtMs < RETRY_MS) return;
    const missing = ranges.map((range) => this.#firstMissing(range)).find((frame) => frame !== undefined);
    if (missing === undefined) return;
    const isUrgent = !this.#held.some(({ endFrame }) => endFrame === missing);
    void this.#load(missing, Math.min(frames - missing, isUrgent ? FIRST_FRAMES : PART_FRAMES));
  }

  has(range: Range): boolean {
    return this.#firstMissing(range) === undefined;
  }

  stop(): void {
    this.#loading?.abort.abort();
    this.#loading = undefined;
  }

  async #load(startFrame: number, frames: number): Promise<void> {
    const abort = new AbortController();
    const loading = { startFrame, endFrame: startFrame + frames, abort };
    this.#loading = loading;
    try {
      const part = await this.#work.fetch({ startFrame, frames }, abort.signal);
      if (this.#loading !== loading) return;
      this.#loading = undefined;
      this.#held.push({ startFrame, endFrame: startFrame + frames, partFrame: part.startFrame });
      this.#work.onMessage(part.message);
    } catch (error) {
      if (this.#loading === loading) this.#loading = undefined;
      if (abort.signal.aborted) return;
      this.#failedAtMs = performance.now();
      this.#work.onFailure(error);
    }
  }

  #firstMissing({ startFrame, endFrame }: Range): number | undefined {
    let frame = startFrame;
    for (;;) {
      if (frame >= endFrame) return undefined;
      const holder = this.#held.find((held) => held.startFrame <= frame && held.endFrame > frame);
      if (!holder) return frame;
      frame = holder.endFrame;
    }
  }
}

function overlap(a: Range, b: Range): boolean {
  return a.startFrame < b.endFrame && b.startFrame < a.endFrame;
}
