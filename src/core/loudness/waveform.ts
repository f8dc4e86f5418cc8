import { GrowableFloat64 } from '../units/growable';

/** Frames under one pair of extremes in the finest stored waveform. */
export const WAVEFORM_BUCKET_FRAMES = 256;

/** A channel's waveform: the least and greatest sample of every run of 256 frames, the last one shorter. */
export interface Waveform {
  min: Float32Array;
  max: Float32Array;
}

export class WaveformBuilder {
  readonly #min = new GrowableFloat64();
  readonly #max = new GrowableFloat64();
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
    return { min: Float32Array.from(this.#min.view()), max: Float32Array.from(this.#max.view()) };
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
 * A waveform cut to `columns` columns of equal width over `frames` frames: the extremes of all buckets that a column
 * touches. With fewer buckets than columns, neighbours show the same bucket.
 */
export function waveformColumns(waveform: Waveform, frames: number, columns: number): Waveform {
  const buckets = waveform.min.length;
  const min = new Float32Array(columns);
  const max = new Float32Array(columns);
  for (let column = 0; column < columns; column++) {
    const startFrame = (column * frames) / columns;
    const endFrame = ((column + 1) * frames) / columns;
    const first = Math.min(buckets - 1, Math.floor(startFrame / WAVEFORM_BUCKET_FRAMES));
    const last = Math.min(buckets, Math.max(first + 1, Math.ceil(endFrame / WAVEFORM_BUCKET_FRAMES)));
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
