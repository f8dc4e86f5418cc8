import type { Line, LineGap, LinePart } from '@/codecs/line';
import { AppError } from '@/core/errors/app-error';
import { unpack } from '@/formats/samples';
import type { PushedFrames } from '../line-protocol';

/** A page that sends nothing for so long has been closed, or its machine sleeps. */
const LOST_AFTER_MS = 3000;
/** Frames that wait to be heard: more is a thread that can't keep up. */
const MOST_WAITING_SECONDS = 30;
const FLOAT_BYTES = Float32Array.BYTES_PER_ELEMENT;
const FLOAT = { type: 'f32', isBigEndian: false } as const;

/** A line whose frames are sent by a page: an input of the machine that its browser runs on. */
export class PushedLine {
  readonly #name: string;
  #waiting: PushedFrames[] = [];
  #waitingFrames = 0;
  #changed: () => void = () => undefined;

  constructor(name: string) {
    this.#name = name;
  }

  /** Takes frames in the order in which they come. */
  push(frames: PushedFrames): void {
    const count = framesOf(frames);
    if (this.#waitingFrames > MOST_WAITING_SECONDS * frames.sampleRateHz) return;
    this.#waiting.push(frames);
    this.#waitingFrames += count;
    this.#changed();
  }

  /** Opens it once a page sends; until then it waits. Another page, or another format, is another opening. */
  async open(onGap: (gap: LineGap) => void, signal: AbortSignal): Promise<Line> {
    const ending = new AbortController();
    const end = () => {
      ending.abort();
      this.#changed();
    };
    signal.addEventListener('abort', end, { once: true });
    while (this.#waiting.length === 0 && !ending.signal.aborted) await this.#change();
    const [first] = this.#waiting;
    if (!first) throw new AppError('line-not-opened', { line: this.#name, reason: 'it was turned off' });
    const { sampleRateHz, channels } = first;
    return {
      format: { sampleRateHz, channels, channelMask: 0 },
      parts: this.#parts(first, onGap, ending.signal),
      end,
    };
  }

  async *#parts(first: PushedFrames, onGap: (gap: LineGap) => void, signal: AbortSignal): AsyncGenerator<LinePart> {
    let expected = first.startFrame;
    let channels: Float32Array[] = [];
    while (!signal.aborted) {
      const next = this.#waiting[0];
      if (!next) {
        const isThere = await this.#changeWithin(LOST_AFTER_MS);
        if (!isThere && !signal.aborted) throw this.#lost('the page that sends it is closed, or its machine sleeps');
        continue;
      }
      if (next.sessionId !== first.sessionId) throw this.#lost('another page, or another input, has taken its place');
      this.#waiting.shift();
      const frames = framesOf(next);
      this.#waitingFrames -= frames;
      // What was sent again after an answer that never came is there already; what came meanwhile may be sent with it.
      const had = Math.max(0, expected - next.startFrame);
      if (had >= frames) continue;
      const missing = next.startFrame - expected;
      if (missing > 0) {
        onGap({ startFrame: expected - first.startFrame, frames: missing });
        for (let left = missing; left > 0; left -= next.sampleRateHz) {
          const count = Math.min(left, next.sampleRateHz);
          yield { channels: Array.from({ length: next.channels }, () => new Float32Array(count)), frames: count };
        }
      }
      const fresh = frames - had;
      if (fresh > (channels[0]?.length ?? 0)) {
        channels = Array.from({ length: next.channels }, () => new Float32Array(fresh));
      }
      unpack(next.bytes.subarray(had * next.channels * FLOAT_BYTES), fresh, FLOAT, channels);
      expected = next.startFrame + frames;
      yield { channels, frames: fresh };
    }
  }

  #lost(reason: string): AppError {
    return new AppError('line-lost', { line: this.#name, reason });
  }

  #change(): Promise<void> {
    return new Promise((resolve) => {
      this.#changed = resolve;
    });
  }

  async #changeWithin(ms: number): Promise<boolean> {
    let timer: NodeJS.Timeout | undefined;
    const late = new Promise<false>((resolve) => {
      timer = setTimeout(() => resolve(false), ms);
    });
    const isThere = await Promise.race([this.#change().then(() => true), late]);
    clearTimeout(timer);
    return isThere;
  }
}

function framesOf({ bytes, channels }: PushedFrames): number {
  return bytes.length / (FLOAT_BYTES * channels);
}
