import { rm } from 'node:fs/promises';
import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import type { Limiter } from '@/core/limiter/limiter';
import { PeakEnvelope } from '@/core/limiter/peak-envelope';
import { channelLayout } from '@/core/loudness/channel-layout';
import type { Dither } from '@/core/treatment/steps/dither';
import { applyFades, type Fade } from '@/core/treatment/steps/fade';
import { dbToAmplitude } from '@/core/units/decibel';
import { createAiffWriter } from '@/formats/aiff/writer';
import { isWavKind } from '@/formats/audio-format';
import type { WrittenDepth } from '@/formats/pack';
import type { PcmHeader } from '@/formats/pcm-header';
import { PcmReader, PIECE_FRAMES } from '@/formats/pcm-reader';
import { type PcmLayout, WRITTEN_BIT_DEPTH } from '@/formats/pcm-writer';
import { bextWithHistory, readBext } from '@/formats/wav/bext';
import { historyLine } from '@/formats/wav/coding-history';
import { createWavWriter } from '@/formats/wav/writer';
import type { RenderReport } from '../protocol';
import { FileSink, FileSource } from './file-bytes';
import { ProgressReporter, type RunOptions } from './progress';

export interface RenderOptions extends RunOptions {
  gainDb: number;
  /** What a person calls the written file. */
  fileName?: string;
  /** A layout chosen by hand, to be stated in the written file. */
  layoutId?: string | null;
  /** WAV unless it is stated. */
  container?: 'WAV' | 'AIFF' | undefined;
  /** 24 unless it is stated; 32 is float. */
  bitDepth?: WrittenDepth | undefined;
  dither?: Dither | undefined;
  fadeIn?: Fade | undefined;
  fadeOut?: Fade | undefined;
  /** Turns up by that gain and down where peaks exceed its ceiling; without it, there is the gain only. */
  limiter?: Limiter;
}

interface Rendered extends RenderReport {
  /** True peaks of what a limiter has left, by node: empty without one. */
  limitedPeaks: Float32Array;
}

/**
 * Writes a source as a WAV or AIFF at its own rate: gain, limiter, fades and dither, in this order. It is flushed to disk. `outputPath` must not exist;
 * whatever goes wrong, nothing is left there.
 */
export async function renderFile(path: string, outputPath: string, options: RenderOptions): Promise<Rendered> {
  const source = await FileSource.open(path);
  try {
    const sink = await FileSink.create(outputPath, options.fileName ?? basename(outputPath));
    try {
      return await writeTreated(source, sink, { ...options, path });
    } catch (error) {
      await sink.abandon();
      await rm(outputPath, { force: true });
      throw error;
    }
  } finally {
    await source.close();
  }
}

async function writeTreated(
  source: FileSource,
  sink: FileSink,
  options: RenderOptions & { path: string },
): Promise<Rendered> {
  const reader = await PcmReader.open(source, basename(options.path));
  const { sampleRateHz, channels, channelMask, frames } = reader.header.format;
  const { limiter, bitDepth = WRITTEN_BIT_DEPTH, dither } = options;
  const layout: PcmLayout = { sampleRateHz, channels, frames, bitDepth, ...(dither ? { dither } : {}) };
  const writer =
    options.container === 'AIFF'
      ? await createAiffWriter(sink, layout, options.fileName ?? '')
      : await createWavWriter(sink, {
          ...layout,
          channelMask: channelLayout(channels, channelMask, options.layoutId ?? undefined).mask,
          chunks: [{ id: 'bext', body: await broadcastExtension(source, reader.header, options) }],
        });
  const progress = new ProgressReporter(frames, sampleRateHz, options);
  const envelope =
    limiter && new PeakEnvelope({ sampleRateHz, channels, floor: limiter.ceiling, maxFrames: PIECE_FRAMES });
  const amplitude = limiter ? 1 : dbToAmplitude(options.gainDb);
  for (let piece = await reader.next(); piece; piece = await reader.next()) {
    const startFrame = reader.frame - piece.frames;
    limiter?.apply(piece.channels, piece.frames, startFrame);
    applyFades(piece.channels, piece.frames, startFrame, frames, options);
    envelope?.process(piece.channels, piece.frames);
    await writer.write(piece.channels, piece.frames, amplitude);
    progress.at(reader.frame);
  }
  if (reader.frame !== frames) throw new AppError('source-changed', { fileName: basename(options.path) });
  await writer.finish();
  await sink.finish();
  return { clippedSamples: writer.clippedSamples, limitedPeaks: envelope?.finish(frames) ?? new Float32Array() };
}

/** Peaks of a source for a limiter, streamed. See PeakEnvelope for what the floor is. */
export async function readPeaks(path: string, floor: number): Promise<Float32Array> {
  const source = await FileSource.open(path);
  try {
    const reader = await PcmReader.open(source, basename(path));
    const { sampleRateHz, channels, frames } = reader.header.format;
    const envelope = new PeakEnvelope({ sampleRateHz, channels, floor, maxFrames: PIECE_FRAMES });
    for (let piece = await reader.next(); piece; piece = await reader.next()) {
      envelope.process(piece.channels, piece.frames);
    }
    if (reader.frame !== frames) throw new AppError('source-changed', { fileName: basename(path) });
    return envelope.finish(frames);
  } finally {
    await source.close();
  }
}

/** The broadcast extension of the written file: the source's own where it has one, with this step at its end. */
async function broadcastExtension(
  source: FileSource,
  { format }: PcmHeader,
  { gainDb, limiter, bitDepth = WRITTEN_BIT_DEPTH }: RenderOptions,
): Promise<Uint8Array> {
  const ceilingDbtp = limiter?.settings.ceilingDbtp ?? null;
  // RIFX has the other byte order, and nothing that writes it writes these.
  const isReadable = isWavKind(format) && format.container !== 'RIFX';
  const existing = isReadable ? await readBext(source, true) : undefined;
  return bextWithHistory(existing, historyLine({ ...format, bitDepth, gainDb, ceilingDbtp }));
}
