import { PICTURE_SEGMENT_SECONDS, segmentAt } from '@/core/film/picture-segments';

const CODED = 'video/webm; codecs="vp8"';
/** Segments that stay in the browser: what is heard again is seen again at once. */
const MOST_CACHED = 12;
/** One is at rest that has not moved for so long. */
const REST_MS = 120;
/** While it plays, picture and sound may be so far apart before the picture jumps, or hurries and waits. */
const JUMP_SECONDS = 0.2;
const HURRY_SECONDS = 0.02;
const MOST_HURRY = 0.1;

/** Shows a film in a video element, in step with sound that is played elsewhere: segments are fetched as they are needed. */
export class PicturePlayer {
  readonly #video: HTMLVideoElement;
  readonly #durationSeconds: number;
  readonly #fetchSegment: (number: number, signal: AbortSignal) => Promise<ArrayBuffer>;
  readonly #onFailure: (error: unknown) => void;
  readonly #source = new MediaSource();
  readonly #url = URL.createObjectURL(this.#source);
  readonly #ending = new AbortController();
  /** The segments that are there or being fetched, the one that was used last at the end. */
  readonly #cached = new Map<number, Promise<void>>();
  readonly #opened: Promise<SourceBuffer>;
  #resting: ReturnType<typeof setTimeout> | undefined;
  /** One thing at a time is done to the buffer. */
  #work: Promise<void> = Promise.resolve();

  constructor(
    video: HTMLVideoElement,
    options: {
      durationSeconds: number;
      fetchSegment: (number: number, signal: AbortSignal) => Promise<ArrayBuffer>;
      onFailure: (error: unknown) => void;
    },
  ) {
    this.#video = video;
    this.#durationSeconds = options.durationSeconds;
    this.#fetchSegment = options.fetchSegment;
    this.#onFailure = options.onFailure;
    this.#opened = new Promise((resolve) => {
      this.#source.addEventListener('sourceopen', () => resolve(this.#source.addSourceBuffer(CODED)), { once: true });
    });
    video.src = this.#url;
  }

  /** Shows what is at a second of the picture, and goes on from there while it plays. */
  show(seconds: number, isPlaying: boolean): void {
    const number = segmentAt(seconds);
    const isNearEnd = seconds - number * PICTURE_SEGMENT_SECONDS > PICTURE_SEGMENT_SECONDS / 2;
    const need = () => {
      this.#need(number);
      if (isPlaying || isNearEnd) this.#need(number + 1);
    };
    clearTimeout(this.#resting);
    // Whoever drags along a film passes many segments, and looks at the one where they come to rest.
    if (isPlaying) need();
    else this.#resting = setTimeout(need, REST_MS);
    const video = this.#video;
    const aheadSeconds = video.currentTime - seconds;
    if (!isPlaying) {
      if (!video.paused) video.pause();
      if (aheadSeconds !== 0) video.currentTime = seconds;
      return;
    }
    if (Math.abs(aheadSeconds) > JUMP_SECONDS) video.currentTime = seconds;
    const hurry = Math.abs(aheadSeconds) > HURRY_SECONDS ? -aheadSeconds : 0;
    video.playbackRate = 1 + Math.max(-MOST_HURRY, Math.min(MOST_HURRY, hurry));
    // It may be ended while it waits for a segment, or not be let play: what is paused is still shown where it is.
    if (video.paused) void video.play().catch(() => undefined);
  }

  close(): void {
    clearTimeout(this.#resting);
    this.#ending.abort();
    this.#video.removeAttribute('src');
    this.#video.load();
    URL.revokeObjectURL(this.#url);
  }

  #need(number: number): void {
    if (number * PICTURE_SEGMENT_SECONDS >= this.#durationSeconds) return;
    const known = this.#cached.get(number);
    this.#cached.delete(number);
    this.#cached.set(number, known ?? this.#load(number));
    if (!known) this.#dropOldest();
  }

  async #load(number: number): Promise<void> {
    const { signal } = this.#ending;
    try {
      const bytes = await this.#fetchSegment(number, signal);
      await this.#do((buffer) => {
        buffer.timestampOffset = number * PICTURE_SEGMENT_SECONDS;
        buffer.appendBuffer(bytes);
      });
    } catch (error) {
      this.#cached.delete(number);
      if (!signal.aborted) this.#onFailure(error);
    }
  }

  #dropOldest(): void {
    for (const [number, loaded] of this.#cached) {
      if (this.#cached.size <= MOST_CACHED) return;
      this.#cached.delete(number);
      const startSeconds = number * PICTURE_SEGMENT_SECONDS;
      void loaded.then(() => this.#do((buffer) => buffer.remove(startSeconds, startSeconds + PICTURE_SEGMENT_SECONDS)));
    }
  }

  #do(change: (buffer: SourceBuffer) => void): Promise<void> {
    const done = this.#work.then(async () => {
      const buffer = await this.#opened;
      if (this.#ending.signal.aborted) return;
      change(buffer);
      await new Promise<void>((resolve) => buffer.addEventListener('updateend', () => resolve(), { once: true }));
    });
    // What fails is told to whoever asked for it; what comes next is done all the same.
    this.#work = done.catch(() => undefined);
    return done;
  }
}
