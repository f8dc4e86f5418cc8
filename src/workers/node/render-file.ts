import { rm } from 'node:fs/promises';
import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { channelLayout } from '@/core/loudness/channel-layout';
import { dbToAmplitude } from '@/core/units/decibel';
import type { PcmHeader } from '@/formats/pcm-header';
import { PcmReader } from '@/formats/pcm-reader';
import { bextWithHistory, readBext } from '@/formats/wav/bext';
import { historyLine } from '@/formats/wav/coding-history';
import { WavWriter, WRITTEN_BIT_DEPTH } from '@/formats/wav/writer';
import type { RenderReport } from '../protocol';
import { FileSink, FileSource } from './file-bytes';
import { ProgressReporter, type RunOptions } from './progress';

export interface RenderOptions extends RunOptions {
  gainDb: number;
  /** What a person calls the written file. */
  fileName?: string;
  /** A layout chosen by hand, to be stated in the written file. */
  layoutId?: string | null;
}

/**
 * Writes a source with a gain as a 24-bit WAV at its own rate, and flushes it to disk. `outputPath` must not exist;
 * whatever goes wrong, nothing is left there.
 */
export async function renderFile(path: string, outputPath: string, options: RenderOptions): Promise<RenderReport> {
  const source = await FileSource.open(path);
  try {
    const sink = await FileSink.create(outputPath, options.fileName ?? basename(outputPath));
    try {
      return { clippedSamples: await writeGained(source, sink, { ...options, path }) };
    } catch (error) {
      await sink.abandon();
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
  const reader = await PcmReader.open(source, basename(options.path));
  const { sampleRateHz, channels, channelMask, frames } = reader.header.format;
  const writer = await WavWriter.create(sink, {
    sampleRateHz,
    channels,
    channelMask: channelLayout(channels, channelMask, options.layoutId ?? undefined).mask,
    frames,
    chunks: [{ id: 'bext', body: await broadcastExtension(source, reader.header, options.gainDb) }],
  });
  const progress = new ProgressReporter(frames, sampleRateHz, options);
  const amplitude = dbToAmplitude(options.gainDb);
  for (let piece = await reader.next(); piece; piece = await reader.next()) {
    await writer.write(piece.channels, piece.frames, amplitude);
    progress.at(reader.frame);
  }
  if (reader.frame !== frames) throw new AppError('source-changed', { fileName: basename(options.path) });
  await writer.finish();
  await sink.finish();
  return writer.clippedSamples;
}

/** The broadcast extension of the written file: the source's own where it has one, with this step at its end. */
async function broadcastExtension(source: FileSource, { format }: PcmHeader, gainDb: number): Promise<Uint8Array> {
  // RIFX has the other byte order, and nothing that writes it writes these.
  const existing = ['WAV', 'RF64', 'BW64'].includes(format.container) ? await readBext(source, true) : undefined;
  return bextWithHistory(existing, historyLine({ ...format, bitDepth: WRITTEN_BIT_DEPTH, gainDb }));
}
