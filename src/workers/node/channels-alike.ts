import { PcmReader } from '@/formats/pcm-reader';
import { FileSource } from './file-bytes';

/** So much is looked at, a piece a time, from all over the file. */
const PIECES = 24;
const PIECE_FRAMES = 8192;
/** Another channel has to be this much more like one than itself before they count as moved: coders blur what is alike. */
const CLEARLY_MORE = 0.25;

/**
 * Whether every channel of a decoded file is more like the same channel of what was coded than like any other: a coder that
 * knows another order, or mixes, is found out by the sound itself. Both files have the same rate.
 *
 * @param around frames that were coded ahead of the first that is decoded, and that are decoded ahead of the first that was coded
 */
export async function areChannelsAlike(
  codedPath: string,
  decodedPath: string,
  { aheadFrames = 0, delayFrames = 0 }: { aheadFrames?: number; delayFrames?: number } = {},
): Promise<boolean> {
  const [coded, decoded] = await Promise.all([FileSource.open(codedPath), FileSource.open(decodedPath)]);
  try {
    const readers = [
      await PcmReader.open(coded, codedPath, PIECE_FRAMES),
      await PcmReader.open(decoded, decodedPath, PIECE_FRAMES),
    ] as const;
    const { channels, frames } = readers[0].header.format;
    if (readers[1].header.format.channels !== channels) return false;
    if (channels < 2) return true;
    const sums = new Likeness(channels);
    const step = Math.max(PIECE_FRAMES, Math.floor(frames / PIECES));
    for (let start = 0; start < frames; start += step) {
      const [one, other] = await Promise.all([
        piece(readers[0], aheadFrames + start),
        piece(readers[1], delayFrames + start),
      ]);
      sums.add(one as Float32Array[], other as Float32Array[]);
    }
    return sums.areInOrder();
  } finally {
    await coded.close();
    await decoded.close();
  }
}

async function piece(reader: PcmReader, start: number): Promise<Float32Array[]> {
  reader.seek(start);
  const next = await reader.next();
  return next ? next.channels.map((samples) => samples.slice(0, next.frames)) : [];
}

/** Correlations of every channel of one file with every one of another. */
class Likeness {
  readonly #products: Float64Array;
  readonly #coded: Float64Array;
  readonly #decoded: Float64Array;

  constructor(private readonly channels: number) {
    this.#products = new Float64Array(channels * channels);
    this.#coded = new Float64Array(channels);
    this.#decoded = new Float64Array(channels);
  }

  add(coded: readonly Float32Array[], decoded: readonly Float32Array[]): void {
    const square = (samples: Float32Array) => dot(samples, samples);
    coded.forEach((own, i) => {
      this.#coded[i] = (this.#coded[i] ?? 0) + square(own);
      decoded.forEach((other, j) => {
        const at = i * this.channels + j;
        this.#products[at] = (this.#products[at] ?? 0) + dot(own, other);
      });
    });
    decoded.forEach((other, j) => {
      this.#decoded[j] = (this.#decoded[j] ?? 0) + square(other);
    });
  }

  areInOrder(): boolean {
    const all = Array.from({ length: this.channels }, (_, i) => i);
    return all.every((i) => all.every((j) => this.#likeness(i, j) <= this.#likeness(i, i) + CLEARLY_MORE));
  }

  #likeness(i: number, j: number): number {
    const norm = Math.sqrt((this.#coded[i] ?? 0) * (this.#decoded[j] ?? 0));
    return norm > 0 ? (this.#products[i * this.channels + j] ?? 0) / norm : 0;
  }
}

function dot(a: Float32Array, b: Float32Array): number {
  let sum = 0;
  for (let i = 0; i < Math.min(a.length, b.length); i++) sum += (a[i] ?? 0) * (b[i] ?? 0);
  return sum;
}
