import { rm } from 'node:fs/promises';
import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { channelLayout } from '@/core/loudness/channel-layout';
import { dbToAmplitude } from '@/core/units/decibel';
import { WavReader } from '@/formats/wav/reader';
import { WavWriter } from '@/formats/wav/writer';
import type { RenderReport } from '../protocol';
import { FileSink, FileSource } from './file-bytes';
import { measureFile } from './measure-file';
import { ProgressReporter, type RunOptions } from './progress';

export interface RenderOptions extends RunOptions {
  gainDb: number;
  /** What a person calls the written file. */
  fileName?: string;
}

/** Part of the whole run that writing takes; reading the file back and measuring it takes the rest. */
const WRITING_SHARE = 0.3;

/**
 * Writes a source with a gain as a 24-bit WAV at its own rate, flushes it to disk, and measures it again from there.
 * `outputPath` must not exist; whatever goes wrong, nothing is left there.
 */
export async function renderFile(path: string, outputPath: string, options: RenderOptions): Promise<RenderReport> {
  const fileName = options.fileName ?? basename(outputPath);
  const source = await FileSource.open(path);
  try {
    const sink = await FileSink.create(outputPath, fileName);
    try {
      const clippedSamples = await writeGained(source, sink, { ...options, path });
      const { report } = await measureFile(outputPath, {
        fileName,
        signal: options.signal,
        onProgress: ({ fraction, timesRealTime }) =>
          options.onProgress?.({ fraction: WRITING_SHARE + (1 - WRITING_SHARE) * fraction, timesRealTime }),
      });
      return { report, clippedSamples };
    } catch (error) {
      await rm(outputPath, { force: true });
      throw error;
    }
  } finally {
    await source.close();
  }
}

async function writeGained(
  source: FileSource,
  sink: FileSink,
  options: RenderOptions & { path: string },
): Promise<number> {
  try {
    const reader = await WavReader.open(source, basename(options.path));
    const { sampleRateHz, channels, channelMask, frames } = reader.header.format;
    const writer = await WavWriter.create(sink, {
      sampleRateHz,
      channels,
      channelMask: channelLayout(channels, channelMask).mask,
      frames,
    });
    const progress = new ProgressReporter(frames, sampleRateHz, {
      signal: options.signal,
      onProgress: ({ fraction, timesRealTime }) =>
        options.onProgress?.({ fraction: WRITING_SHARE * fraction, timesRealTime }),
    });
    const amplitude = dbToAmplitude(options.gainDb);
    for (let piece = await reader.next(); piece; piece = await reader.next()) {
      await writer.write(piece.channels, piece.frames, amplitude);
      progress.at(reader.frame);
    }
    if (reader.frame !== frames) throw new AppError('source-changed', { fileName: basename(options.path) });
    await writer.finish();
    await sink.finish();
    return writer.clippedSamples;
  } catch (error) {
    await sink.abandon();
    throw error;
  }
}
