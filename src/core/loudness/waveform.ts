import { Growable } from '../units/growable';

/** Frames under one pair of extremes in the finest waveform, and in each level of the pyramid over it. */
export const WAVEFORM_BUCKET_FRAMES = 256;
const LEVEL_RATIO = 16;
export const WAVEFORM_LEVELS = [
  WAVEFORM_BUCKET_FRAMES,
  WAVEFORM_BUCKET_FRAMES * LEVEL_RATIO,
  WAVEFORM_BUCKET_FRAMES * LEVEL_RATIO ** 2,
] as const;

/** A channel's waveform: the least and greatest sample of every run of so many frames, the last one shorter. */
export interface Waveform {
  min: Float32Array;
  max: Float32Array;
}

export class WaveformBuilder {
  readonly #min = new Growable(Float32Array);
  readonly #max = new Growable(Float32Array);
  #filled = 0;
  #low = Number.POSITIVE_INFINITY;
  #high = Number.NEGATIVE_INFINITY;

  process(samples: Float32Array, frames: number): void {
    let position = 0;
    while (position < frames) {
      const end = Math.min(frames, position + WAVEFORM_BUCKET_FRAMES - this.#filled);
      for (let i = position; i < end; i++) {
        const x = samples[i] as number;
        if (x < this.#low) this.#low = x;
        if (x > this.#high) this.#high = x;
      }
      this.#filled += end - position;
      position = end;
      if (this.#filled === WAVEFORM_BUCKET_FRAMES) this.#close();
    }
  }

  finish(): Waveform {
    if (this.#filled > 0) this.#close();
    return { min: this.#min.view().slice(), max: this.#max.view().slice() };
  }

  #close(): void {
    this.#min.push(this.#low);
    this.#max.push(this.#high);
    this.#filled = 0;
    this.#low = Number.POSITIVE_INFINITY;
    this.#high = Number.NEGATIVE_INFINITY;
  }
}

/**
 * Builds every level of one channel's waveform from the finest, segment after segment. Buckets are handed on as soon as
 * nothing can change them, so that memory stays the same for a programme of any length.
 */
export class WaveformPyramid {
  readonly #levels: Level[];
  readonly #write: (level: number, firstBucket: number, part: Waveform) => void;

  constructor(write: (level: number, firstBucket: number, part: Waveform) => void) {
    this.#write = write;
    this.#levels = WAVEFORM_LEVELS.map(() => new Level());
  }

  /** @param part a segment's buckets; the first may be the rest of one that the segment before began */
  add(part: Waveform, startFrame: number): void {
    const first = Math.floor(startFrame / WAVEFORM_BUCKET_FRAMES);
    part.min.forEach((low, i) => {
      this.#take(0, first + i, low, part.max[i] as number);
    });
    this.#flush();
  }

  finish(): void {
    this.#levels.forEach((level, index) => {
      level.closed.push({ low: level.low, high: level.high });
      this.#take(index + 1, Math.floor(level.bucket / LEVEL_RATIO), level.low, level.high);
    });
    this.#flush();
  }

  #take(index: number, bucket: number, low: number, high: number): void {
    const level = this.#levels[index];
    if (!level) return;
    if (bucket !== level.bucket) {
      level.closed.push({ low: level.low, high: level.high });
      this.#take(index + 1, Math.floor(level.bucket / LEVEL_RATIO), level.low, level.high);
      level.bucket = bucket;
      level.low = low;
      level.high = high;
      return;
    }
    if (low < level.low) level.low = low;
    if (high > level.high) level.high = high;
  }

  #flush(): void {
    this.#levels.forEach((level, index) => {
      if (level.closed.length === 0) return;
      const part = {
        min: Float32Array.from(level.closed, ({ low }) => low),
        max: Float32Array.from(level.closed, ({ high }) => high),
      };
      this.#write(index, level.written, part);
      level.written += level.closed.length;
      level.closed = [];
    });
  }
}

class Level {
  /** The bucket that is open, and its extremes so far. */
  bucket = 0;
  low = Number.POSITIVE_INFINITY;
  high = Number.NEGATIVE_INFINITY;
  closed: { low: number; high: number }[] = [];
  written = 0;
}

/** The coarsest level that has a bucket for every column that so many frames are cut to; else the finest. */
export function waveformLevel(frames: number, columns: number): number {
  let level = 0;
  while (level + 1 < WAVEFORM_LEVELS.length && frames / (WAVEFORM_LEVELS[level + 1] as number) >= columns) level++;
  return level;
}

/**
 * A waveform cut to `columns` columns of equal width over `frames` frames: the extremes of all buckets that a column
 * touches. With fewer buckets than columns, neighbours show the same bucket.
 */
export function waveformColumns(
  waveform: Waveform,
  frames: number,
  columns: number,
  bucketFrames = WAVEFORM_BUCKET_FRAMES,
): Waveform {
  const buckets = waveform.min.length;
  const min = new Float32Array(columns);
  const max = new Float32Array(columns);
  for (let column = 0; column < columns; column++) {
    const startFrame = (column * frames) / columns;
    const endFrame = ((column + 1) * frames) / columns;
    const first = Math.min(buckets - 1, Math.floor(startFrame / bucketFrames));
    const last = Math.min(buckets, Math.max(first + 1, Math.ceil(endFrame / bucketFrames)));
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    for (let bucket = first; bucket < last; bucket++) {
      low = Math.min(low, waveform.min[bucket] as number);
      high = Math.max(high, waveform.max[bucket] as number);
    }
    min[column] = low;
    max[column] = high;
  }
  return { min, max };
}
