import { WAVEFORM_LEVELS, type Waveform } from '@/core/loudness/waveform';
import type { Preparation } from '@/core/treatment/treatment';
import { fetchArrays, programmeAddress, type SourceKey, waveformsOf } from '@/features/common/use-trace';
import type { View } from './view';

const FRAME_TILE = 16_384;
const BUCKET_TILE = 2048;
/** Frames themselves are looked at in buckets of so many where more than that share a pixel. */
const FINE_BUCKET = 16;
/** Tiles of frames take 128 kB for two channels; some tens of MB stay. */
const MOST_TILES = 400;
const MOST_LOADING = 6;

/** A waveform at one fineness: its level on the server, or its frames. */
interface Level {
  /** Of the server's levels; null for the frames themselves. */
  level: number | null;
  bucketFrames: number;
  tileFrames: number;
}

const LEVELS: readonly Level[] = [
  { level: null, bucketFrames: 1, tileFrames: FRAME_TILE },
  ...WAVEFORM_LEVELS.map((bucketFrames, level) => ({ level, bucketFrames, tileFrames: BUCKET_TILE * bucketFrames })),
];

interface Tile {
  startFrame: number;
  bucketFrames: number;
  /** Frames are their own least and greatest. */
  channels: Waveform[];
  /** Frames only: the same in buckets of FINE_BUCKET. */
  fine: Waveform[] | null;
}

/** Least and greatest sample of every pixel; where nothing is known, least is above greatest. */
export interface Columns {
  min: Float32Array;
  max: Float32Array;
}

/**
 * The waveform of a programme as it is prepared, in tiles of every fineness, fetched when they are looked at. Until one
 * is there, a coarser one is shown.
 */
export class WaveformTiles {
  readonly frames: number;
  readonly channels: number;
  readonly #source: SourceKey;
  readonly #preparation: string;
  readonly #whole: Tile;
  readonly #tiles = new Map<string, Tile>();
  readonly #loading = new Map<string, AbortController>();
  readonly #listeners = new Set<() => void>();
  #loaded = 0;

  /** @param whole all of it, in columns that need not hold whole frames */
  constructor(source: SourceKey, preparation: Preparation, whole: { frames: number; waveforms: Waveform[] }) {
    this.#source = source;
    this.#preparation = JSON.stringify(preparation);
    this.frames = whole.frames;
    this.channels = whole.waveforms.length;
    const columns = whole.waveforms[0]?.min.length ?? 1;
    this.#whole = {
      startFrame: 0,
      bucketFrames: Math.max(1, whole.frames / columns),
      channels: whole.waveforms,
      fine: null,
    };
  }

  /** How many tiles have come so far. */
  get loaded(): number {
    return this.#loaded;
  }

  /** Calls the listener whenever a tile has come, until the function that is returned is called. */
  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  stop(): void {
    for (const abort of this.#loading.values()) abort.abort();
    this.#loading.clear();
  }

  /** What a view shows of a channel, or of all of them as one, in so many pixels; what is missing is asked for. */
  columns(view: View, width: number, channel: number | null): Columns {
    const columns = { min: new Float32Array(width).fill(1), max: new Float32Array(width).fill(-1) };
    const perPixel = (view.endFrame - view.startFrame) / width;
    const members = channel === null ? Array.from({ length: this.channels }, (_, c) => c) : [channel];
    const finest = this.#finestFor(perPixel);
    if (perPixel >= this.#whole.bucketFrames) this.#draw(columns, view, this.#whole, members, perPixel);
    else {
      const missing = this.#ask(finest, view);
      if (missing) {
        this.#draw(columns, view, this.#whole, members, perPixel, true);
        for (let i = LEVELS.length - 1; i > LEVELS.indexOf(finest); i--) {
          this.#drawLevel(columns, view, LEVELS[i] as Level, members, perPixel, true);
        }
      }
      this.#drawLevel(columns, view, finest, members, perPixel, missing);
    }
    return columns;
  }

  /** The frames of a channel within a view, with some around it, if all of them are there. */
  samples(view: View, channel: number, margin: number): { startFrame: number; samples: Float32Array } | null {
    const level = LEVELS[0] as Level;
    const startFrame = Math.max(0, Math.floor(view.startFrame) - margin);
    const endFrame = Math.min(this.frames, Math.ceil(view.endFrame) + margin);
    if (endFrame <= startFrame || this.#ask(level, { startFrame, endFrame })) return null;
    const samples = new Float32Array(endFrame - startFrame);
    for (const tile of this.#present(level, { startFrame, endFrame })) {
      const own = tile.channels[channel]?.max as Float32Array;
      const from = Math.max(startFrame, tile.startFrame);
      const to = Math.min(endFrame, tile.startFrame + own.length);
      samples.set(own.subarray(from - tile.startFrame, to - tile.startFrame), from - startFrame);
    }
    return { startFrame, samples };
  }

  /** The coarsest that has a bucket for every pixel. */
  #finestFor(perPixel: number): Level {
    return LEVELS.findLast(({ bucketFrames }) => bucketFrames <= perPixel) ?? (LEVELS[0] as Level);
  }

  /** Asks for the tiles of a view that are not there; returns whether there are any. */
  #ask(level: Level, view: View): boolean {
    let isMissing = false;
    for (const index of this.#indices(level, view)) {
      const key = `${level.bucketFrames} ${index}`;
      if (this.#tiles.has(key)) continue;
      isMissing = true;
      if (!this.#loading.has(key) && this.#loading.size < MOST_LOADING) void this.#load(level, index, key);
    }
    return isMissing;
  }

  #indices({ tileFrames }: Level, { startFrame, endFrame }: View): number[] {
    const first = Math.max(0, Math.floor(startFrame / tileFrames));
    const last = Math.min(Math.ceil(this.frames / tileFrames), Math.ceil(endFrame / tileFrames));
    return Array.from({ length: Math.max(0, last - first) }, (_, i) => first + i);
  }

  #present(level: Level, view: View): Tile[] {
    return this.#indices(level, view).flatMap((index) => this.#tiles.get(`${level.bucketFrames} ${index}`) ?? []);
  }

  #drawLevel(
    columns: Columns,
    view: View,
    level: Level,
    members: number[],
    perPixel: number,
    isReplacing: boolean,
  ): void {
    for (const tile of this.#present(level, view)) this.#draw(columns, view, tile, members, perPixel, isReplacing);
  }

  /** @param isReplacing what is there was drawn from something coarser */
  #draw(columns: Columns, view: View, tile: Tile, members: number[], perPixel: number, isReplacing = false): void {
    const useFine = tile.fine !== null && perPixel >= FINE_BUCKET;
    const waveforms = useFine ? (tile.fine as Waveform[]) : tile.channels;
    const bucketFrames = useFine ? FINE_BUCKET : tile.bucketFrames;
    const buckets = waveforms[0]?.min.length ?? 0;
    const width = columns.min.length;
    const toX = (bucket: number) => (tile.startFrame + bucket * bucketFrames - view.startFrame) / perPixel;
    const first = Math.max(0, Math.floor((view.startFrame - tile.startFrame) / bucketFrames));
    const last = Math.min(buckets, Math.ceil((view.endFrame - tile.startFrame) / bucketFrames));
    if (isReplacing) {
      const from = Math.max(0, Math.floor(toX(first)));
      const to = Math.min(width, Math.ceil(toX(last)));
      columns.min.fill(1, from, to);
      columns.max.fill(-1, from, to);
    }
    for (const c of members) {
      const { min, max } = waveforms[c] as Waveform;
      for (let bucket = first; bucket < last; bucket++) {
        const low = min[bucket] ?? 0;
        const high = max[bucket] ?? 0;
        const from = Math.max(0, Math.floor(toX(bucket)));
        const to = Math.min(width, Math.max(from + 1, Math.ceil(toX(bucket + 1))));
        for (let x = from; x < to; x++) {
          if (low < (columns.min[x] ?? 0)) columns.min[x] = low;
          if (high > (columns.max[x] ?? 0)) columns.max[x] = high;
        }
      }
    }
  }

  async #load({ level, bucketFrames, tileFrames }: Level, index: number, key: string): Promise<void> {
    const abort = new AbortController();
    this.#loading.set(key, abort);
    const preparation = this.#preparation;
    const startFrame = index * tileFrames;
    try {
      if (level === null) {
        const frames = Math.min(tileFrames, this.frames - startFrame);
        const address = programmeAddress(this.#source, 'frames', { preparation, startFrame, frames });
        const { arrays } = await fetchArrays(address, abort.signal);
        const channels = Array.from({ length: this.channels }, (_, c) => arrays[`channel${c}`] as Float32Array);
        this.#keep(key, {
          startFrame,
          bucketFrames,
          channels: channels.map((samples) => ({ min: samples, max: samples })),
          fine: channels.map(fineOf),
        });
      } else {
        const asked = { preparation, level, firstBucket: index * BUCKET_TILE, buckets: BUCKET_TILE };
        const { arrays } = await fetchArrays(programmeAddress(this.#source, 'waveform', asked), abort.signal);
        this.#keep(key, { startFrame, bucketFrames, channels: waveformsOf(arrays, this.channels), fine: null });
      }
    } catch {
      // What is coarser stays in its place; it is asked for again when it is looked at again.
    } finally {
      this.#loading.delete(key);
    }
    if (!this.#tiles.has(key) || abort.signal.aborted) return;
    this.#loaded++;
    for (const listener of this.#listeners) listener();
  }

  #keep(key: string, tile: Tile): void {
    this.#tiles.set(key, tile);
    if (this.#tiles.size > MOST_TILES) this.#tiles.delete(this.#tiles.keys().next().value as string);
  }
}

function fineOf(samples: Float32Array): Waveform {
  const buckets = Math.ceil(samples.length / FINE_BUCKET);
  const min = new Float32Array(buckets);
  const max = new Float32Array(buckets);
  for (let bucket = 0; bucket < buckets; bucket++) {
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    for (let i = bucket * FINE_BUCKET; i < Math.min(samples.length, (bucket + 1) * FINE_BUCKET); i++) {
      const sample = samples[i] ?? 0;
      if (sample < low) low = sample;
      if (sample > high) high = sample;
    }
    min[bucket] = low;
    max[bucket] = high;
  }
  return { min, max };
}
