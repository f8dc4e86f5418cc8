import { rm } from 'node:fs/promises';
import { AppError } from '@/core/errors/app-error';
import { alignPass } from '@/core/outboard/align-pass';
import { DropOutFinder } from '@/core/outboard/drop-outs';
import { powerToDb } from '@/core/units/decibel';
import { PcmReader } from '@/formats/pcm-reader';
import { createWavWriter } from '@/formats/wav/writer';
import type { PassFile, PassReading } from '../protocol';
import { FileSink, FileSource } from './file-bytes';
import { readStretch } from './pcm-stretch';
import { ProgressReporter, type RunOptions } from './progress';

const PIECE_FRAMES = 65_536;

/**
 * Finds when what was sent came back, and writes that as a WAV of 32-bit floats, frame for frame beside what was sent. `outputPath` must
 * not exist; whatever goes wrong, nothing is left there.
 *
 * @throws AppError `pass-not-found` where nothing of what was sent came back
 */
export async function alignPassFile(
  file: PassFile,
  outputPath: string,
  options: RunOptions = {},
): Promise<PassReading> {
  const { fileName, firstFrame, frames, mostDelaySeconds, channelMask } = file;
  const opened = await FileSource.open(file.path, fileName);
  try {
    const reader = await PcmReader.open(opened, fileName);
    const { sampleRateHz, channels: both } = reader.header.format;
    const channels = both / 2;
    const source = {
      sent: async (from: number, count: number) =>
        (await readStretch(reader, firstFrame + from, count)).slice(0, channels),
      returned: async (from: number, count: number) =>
        (await readStretch(reader, firstFrame + from, count)).slice(channels),
    };
    const { signal } = options;
    const alignment = await alignPass(source, { sampleRateHz, frames, mostDelaySeconds, signal });
    if (!alignment) throw new AppError('pass-not-found', { fileName });
    const sink = await FileSink.create(outputPath);
    try {
      const layout = { sampleRateHz, channels, channelMask, frames, bitDepth: 32 } as const;
      const writer = await createWavWriter(sink, layout);
      const progress = new ProgressReporter(frames, sampleRateHz, options);
      const dropOuts = new DropOutFinder(sampleRateHz);
      let [sentEnergy, returnedEnergy, peak] = [0, 0, 0];
      for (let at = 0; at < frames; at += PIECE_FRAMES) {
        const count = Math.min(PIECE_FRAMES, frames - at);
        const sent = await source.sent(at, count);
        const returned = await source.returned(at + alignment.delayFrames, count);
        dropOuts.add(sent, returned);
        for (const samples of sent) for (const x of samples) sentEnergy += x * x;
        for (const samples of returned) {
          for (const x of samples) {
            returnedEnergy += x * x;
            peak = Math.max(peak, Math.abs(x));
          }
        }
        await writer.write(returned, count, 1);
        progress.at(at + count);
      }
      await writer.finish();
      await sink.finish();
      const gainDb = sentEnergy > 0 ? powerToDb(returnedEnergy / sentEnergy) : null;
      return { ...alignment, gainDb, peakDbfs: powerToDb(peak * peak), dropOuts: dropOuts.finish() };
    } catch (error) {
      await sink.abandon().catch(() => undefined);
      await rm(outputPath, { force: true });
      throw error;
    }
  } finally {
    await opened.close();
  }
}
