import { rm } from 'node:fs/promises';
import { basename } from 'node:path';
import { resampleWav } from '@/codecs/resample';
import { AppError } from '@/core/errors/app-error';
import { keptRange } from '@/core/treatment/steps/keep';
import { type ChannelMix, mixChannels, mixedChannels } from '@/core/treatment/steps/mix-channels';
import { applyRoomTone, crossfadeFrames, type Pad, QuietestFinder } from '@/core/treatment/steps/pad';
import { removeDc } from '@/core/treatment/steps/remove-dc';
import { resampledFrames } from '@/core/treatment/steps/resample';
import type { Treatment } from '@/core/treatment/treatment';
import { PcmReader, PIECE_FRAMES } from '@/formats/pcm-reader';
import { createWavWriter } from '@/formats/wav/writer';
import { FileSink, FileSource } from './file-bytes';
import { ProgressReporter, type RunOptions } from './progress';

/** What is done to a source before its gain is worked out. */
export type Preparation = Pick<Treatment, 'keep' | 'resampleHz' | 'removeDc' | 'mix' | 'head' | 'tail'>;

/**
 * Writes what is kept of a source, at the rate that is asked for, without its means, with its channels mixed and what is
 * added ahead and behind, as 32-bit floats: nothing is lost on the way. `outputPath` must not exist; whatever goes wrong,
 * nothing is left there.
 */
export async function prepareFile(
  path: string,
  outputPath: string,
  preparation: Preparation,
  options: RunOptions & { fileName?: string } = {},
): Promise<void> {
  const { fileName = basename(path) } = options;
  const { resampleHz, keep, ...rest } = preparation;
  const { sampleRateHz, frames: sourceFrames } = await formatOf(path, fileName);
  if (!resampleHz || resampleHz === sampleRateHz) {
    await writePrepared(path, outputPath, fileName, { keep, ...rest }, options);
    return;
  }
  const [cutPath, resampledPath] = preparationLeftovers(outputPath) as [string, string];
  try {
    await writePrepared(path, cutPath, fileName, { keep, ...NOTHING }, options);
    const { startFrame, endFrame } = keptRange(keep, sourceFrames);
    const frames = endFrame - startFrame;
    const job = { fromHz: sampleRateHz, toHz: resampleHz, frames, fileName, signal: options.signal };
    await resampleWav(cutPath, resampledPath, job);
    await rm(cutPath, { force: true });
    const length = resampledFrames(frames, sampleRateHz, resampleHz);
    await writePrepared(
      resampledPath,
      outputPath,
      fileName,
      { keep: { startFrame: 0, endFrame: length }, ...rest },
      options,
      length,
    );
  } finally {
    await rm(cutPath, { force: true });
    await rm(resampledPath, { force: true });
  }
}

/** Files that stand beside `outputPath` while it is made. */
export function preparationLeftovers(outputPath: string): string[] {
  return [`${outputPath}.cut.part`, `${outputPath}.resampled.part`];
}

const NOTHING = { removeDc: false, mix: 'stereo', head: null, tail: null } as const;

async function formatOf(path: string, fileName: string) {
  const source = await FileSource.open(path, fileName);
  try {
    return (await PcmReader.open(source, fileName)).header.format;
  } finally {
    await source.close();
  }
}

/** @param promisedFrames of a file that may be a few frames shorter: silence makes up for them */
async function writePrepared(
  path: string,
  outputPath: string,
  fileName: string,
  preparation: Omit<Preparation, 'resampleHz'>,
  options: RunOptions,
  promisedFrames?: number,
): Promise<void> {
  const source = await FileSource.open(path, fileName);
  try {
    const sink = await FileSink.create(outputPath, fileName);
    try {
      const reader = await PcmReader.open(source, fileName, options.pieceFrames);
      await new Preparing(reader, preparation, promisedFrames).write(sink, fileName, options);
      await sink.finish();
    } catch (error) {
      await sink.abandon();
      await rm(outputPath, { force: true });
      throw error;
    }
  } finally {
    await source.close();
  }
}

class Preparing {
  readonly #reader: PcmReader;
  readonly #preparation: Omit<Preparation, 'resampleHz'>;
  readonly #startFrame: number;
  readonly #endFrame: number;
  /** Frames that are written between what is added. */
  readonly #frames: number;
  readonly #mix: ChannelMix | null;
  #means: number[] = [];

  constructor(reader: PcmReader, preparation: Omit<Preparation, 'resampleHz'>, promisedFrames?: number) {
    const { frames, channels } = reader.header.format;
    const { startFrame, endFrame } = keptRange(preparation.keep, frames);
    this.#reader = reader;
    this.#preparation = preparation;
    this.#startFrame = startFrame;
    this.#endFrame = endFrame;
    this.#frames = promisedFrames ?? endFrame - startFrame;
    this.#mix = channels === 2 ? preparation.mix : null;
  }

  async write(sink: FileSink, fileName: string, options: RunOptions): Promise<void> {
    const { sampleRateHz, channels, channelMask } = this.#reader.header.format;
    const { head, tail, removeDc: isDcRemoved } = this.#preparation;
    const written = this.#mix ? mixedChannels(this.#mix) : channels;
    const headFrames = head?.frames ?? 0;
    const frames = headFrames + this.#frames + (tail?.frames ?? 0);
    const writer = await createWavWriter(sink, {
      sampleRateHz,
      channels: written,
      channelMask: written === channels ? channelMask : 0,
      frames,
      bitDepth: 32,
    });
    if (isDcRemoved) this.#means = await this.#meansOf();
    const tone = await this.#roomTone(fileName);
    const crossfade = crossfadeFrames(sampleRateHz, this.#frames);
    const progress = new ProgressReporter(frames, sampleRateHz, options);
    let frame = 0;
    const put = async (planar: readonly Float32Array[], count: number) => {
      const edges: [Pad | null, number, boolean][] = [
        [head, headFrames, true],
        [tail, headFrames + this.#frames, false],
      ];
      for (const [pad, edge, isHead] of edges) {
        if (pad?.kind === 'room-tone' && tone) applyRoomTone(planar, count, frame, { tone, edge, crossfade, isHead });
      }
      await writer.write(planar, count, 1);
      frame += count;
      progress.at(frame);
    };
    const silence = async (count: number) => {
      for (let left = count; left > 0; left -= PIECE_FRAMES) {
        const length = Math.min(left, PIECE_FRAMES);
        await put(
          Array.from({ length: written }, () => new Float32Array(length)),
          length,
        );
      }
    };
    await silence(headFrames);
    for await (const planar of this.#kept()) await put(this.#treated(planar), planar[0]?.length ?? 0);
    if (this.#reader.frame < this.#endFrame) throw new AppError('source-changed', { fileName });
    await silence(headFrames + this.#frames - frame);
    await silence(tail?.frames ?? 0);
    await writer.finish();
  }

  /** The frames that are kept, from first to last: the arrays are used again by the next. */
  async *#kept(from = this.#startFrame, to = this.#endFrame): AsyncGenerator<Float32Array[]> {
    const reader = this.#reader;
    reader.seek(from);
    while (reader.frame < to) {
      const piece = await reader.next();
      if (!piece) return;
      const frames = Math.min(piece.frames, to - (reader.frame - piece.frames));
      yield piece.channels.map((samples) => samples.subarray(0, frames));
    }
  }

  #treated(planar: Float32Array[]): Float32Array[] {
    if (this.#means.length > 0) removeDc(planar, planar[0]?.length ?? 0, this.#means);
    return this.#mix ? mixChannels(planar as [Float32Array, Float32Array], this.#mix) : planar;
  }

  async #meansOf(): Promise<number[]> {
    const sums = new Float64Array(this.#reader.header.format.channels);
    for await (const planar of this.#kept()) {
      planar.forEach((samples, c) => {
        let sum = 0;
        for (let n = 0; n < samples.length; n++) sum += samples[n] as number;
        sums[c] = (sums[c] as number) + sum;
      });
    }
    return Array.from(sums, (sum) => sum / (this.#endFrame - this.#startFrame));
  }

  /** The quietest half-second of what is kept, as it is written; null where none is wanted, or there is none. */
  async #roomTone(fileName: string): Promise<Float32Array[] | null> {
    const { head, tail } = this.#preparation;
    if (head?.kind !== 'room-tone' && tail?.kind !== 'room-tone') return null;
    const finder = new QuietestFinder(this.#reader.header.format.sampleRateHz);
    for await (const planar of this.#kept()) finder.process(planar, planar[0]?.length ?? 0);
    const found = finder.finish();
    if (!found) throw new AppError('no-room-tone', { fileName });
    const from = this.#startFrame + found.startFrame;
    const parts: Float32Array[][] = [];
    for await (const planar of this.#kept(from, from + found.frames)) {
      parts.push(this.#treated(planar).map((samples) => samples.slice()));
    }
    return (parts[0] ?? []).map((_, channel) => {
      const tone = new Float32Array(found.frames);
      let at = 0;
      for (const part of parts) {
        tone.set(part[channel] as Float32Array, at);
        at += (part[channel] as Float32Array).length;
      }
      return tone;
    });
  }
}
