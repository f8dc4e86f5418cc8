import { rm } from 'node:fs/promises';
import { basename } from 'node:path';
import { resampleWav } from '@/codecs/resample';
import { AppError } from '@/core/errors/app-error';
import { type ToneCandidate, toneFrames } from '@/core/treatment/room-tone';
import { resampledFrames } from '@/core/treatment/steps/resample';
import { trimmedRange } from '@/core/treatment/steps/trim';
import { type FrameSteps, NO_PREPARATION, type Preparation } from '@/core/treatment/treatment';
import { PcmReader } from '@/formats/pcm-reader';
import { createWavWriter } from '@/formats/wav/writer';
import { FileSink, FileSource } from './file-bytes';
import { PreparedReader, type PreparedSource } from './prepared-reader';
import { ProgressReporter, type RunOptions } from './progress';
import { findTone, needsTone } from './room-tone';

interface PrepareOptions extends RunOptions {
  fileName?: string | undefined;
}

/**
 * Resamples what is kept of a source, where another rate is asked for. That needs a file of its own, at `resampledPath`,
 * which must not exist: whoever calls takes it away. Whatever goes wrong, nothing is left there.
 */
export async function resampleKept(
  path: string,
  resampledPath: string,
  { resampleHz, ...steps }: Preparation,
  options: PrepareOptions = {},
): Promise<PreparedSource> {
  const { fileName = basename(path), signal } = options;
  const { sampleRateHz, frames: sourceFrames } = await withPcm(path, options, async ({ header }) => header.format);
  if (!resampleHz || resampleHz === sampleRateHz) return { path, steps };
  const { startFrame, endFrame } = trimmedRange(steps.trim, sourceFrames);
  const promisedFrames = resampledFrames(endFrame - startFrame, sampleRateHz, resampleHz);
  // Room tone may stand in what is cut off: that is resampled along with what is kept.
  const tone = needsTone(steps) ? await toneIn(path, steps, fileName) : null;
  const cut = {
    startFrame: Math.min(startFrame, tone?.startFrame ?? startFrame),
    endFrame: Math.max(endFrame, tone ? tone.startFrame + tone.frames : endFrame),
  };
  const frames = cut.endFrame - cut.startFrame;
  const place = (frame: number) => Math.round(((frame - cut.startFrame) * resampleHz) / sampleRateHz);
  const cutPath = cutPathOf(resampledPath);
  try {
    await writeSteps({ path, steps: { ...NO_PREPARATION, trim: cut } }, cutPath, options);
    await resampleWav(cutPath, resampledPath, { fromHz: sampleRateHz, toHz: resampleHz, frames, fileName, signal });
  } finally {
    await rm(cutPath, { force: true });
  }
  return {
    path: resampledPath,
    steps: { ...steps, trim: { startFrame: place(startFrame), endFrame: place(startFrame) + promisedFrames } },
    promisedFrames,
    ...(tone ? { tone: { startFrame: place(tone.startFrame), frames: toneFrames(resampleHz) } } : {}),
  };
}

/** Where room tone stands in a file, in frames of it. Throws as `findTone`. */
export function toneIn(path: string, steps: FrameSteps, fileName = basename(path)): Promise<ToneCandidate> {
  return withPcm(path, { fileName }, (reader) => findTone(reader, steps, fileName));
}

/** Opens what `resampleKept` gave, for as long as it is used. */
export function withPrepared<T>(
  source: PreparedSource,
  options: PrepareOptions,
  use: (reader: PreparedReader) => Promise<T>,
): Promise<T> {
  const fileName = options.fileName ?? basename(source.path);
  return withPcm(source.path, options, async (reader) => use(await PreparedReader.open(reader, source, fileName)));
}

/** A source that nothing is done to before its gain. */
export function unprepared(path: string): PreparedSource {
  return { path, steps: NO_PREPARATION };
}

/**
 * Writes what a treatment makes of a source before its gain, as 32-bit floats: nothing is lost on the way. `outputPath`
 * must not exist; whatever goes wrong, nothing is left there.
 */
export async function prepareFile(
  path: string,
  outputPath: string,
  preparation: Preparation,
  options: PrepareOptions = {},
): Promise<void> {
  const resampledPath = resampledPathOf(outputPath);
  try {
    await writeSteps(await resampleKept(path, resampledPath, preparation, options), outputPath, options);
  } finally {
    await rm(resampledPath, { force: true });
  }
}

/** Where a file stands that is resampled on the way to another. */
export const resampledPathOf = (outputPath: string) => `${outputPath}.resampled.part`;
const cutPathOf = (resampledPath: string) => `${resampledPath}.cut.part`;

/** What may be left beside `outputPath` where the thread that prepared it was ended. */
export function preparationLeftovers(outputPath: string): string[] {
  const resampledPath = resampledPathOf(outputPath);
  return [resampledPath, cutPathOf(resampledPath)];
}

async function withPcm<T>(path: string, options: PrepareOptions, use: (reader: PcmReader) => Promise<T>): Promise<T> {
  const fileName = options.fileName ?? basename(path);
  const source = await FileSource.open(path, fileName);
  try {
    return await use(await PcmReader.open(source, fileName, options.pieceFrames));
  } finally {
    await source.close();
  }
}

async function writeSteps(source: PreparedSource, outputPath: string, options: PrepareOptions): Promise<void> {
  const fileName = options.fileName ?? basename(source.path);
  await withPrepared(source, options, async (reader) => {
    const { sampleRateHz, channels, channelMask, frames } = reader.format;
    const sink = await FileSink.create(outputPath, fileName);
    try {
      const writer = await createWavWriter(sink, { sampleRateHz, channels, channelMask, frames, bitDepth: 32 });
      const progress = new ProgressReporter(frames, sampleRateHz, options);
      for (let piece = await reader.next(); piece; piece = await reader.next()) {
        await writer.write(piece.channels, piece.frames, 1);
        progress.at(reader.frame);
      }
      if (reader.frame < frames) throw new AppError('source-changed', { fileName });
      await writer.finish();
      await sink.finish();
    } catch (error) {
      await sink.abandon();
      await rm(outputPath, { force: true });
      throw error;
    }
  });
}
