import { rm } from 'node:fs/promises';
import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { type ChannelMix, mixChannels, mixedChannels } from '@/core/treatment/steps/mix-channels';
import { PcmReader } from '@/formats/pcm-reader';
import { createWavWriter } from '@/formats/wav/writer';
import { FileSink, FileSource } from './file-bytes';

/** What is done to a source before its gain is worked out. */
export interface Preparation {
  /** The frames that are kept: from the first, up to but without the other. */
  startFrame: number;
  endFrame: number;
  /** Each channel's mean over what is kept is taken off. */
  removeDc: boolean;
  /** Of two channels; anything else stays as it is. */
  mix: ChannelMix;
}

/**
 * Writes what is kept of a source, without its means and with its channels mixed, as 32-bit floats: nothing is lost on
 * the way. `outputPath` must not exist; whatever goes wrong, nothing is left there.
 */
export async function prepareFile(path: string, outputPath: string, preparation: Preparation): Promise<void> {
  const source = await FileSource.open(path);
  try {
    const sink = await FileSink.create(outputPath);
    try {
      await write(source, sink, basename(path), preparation);
    } catch (error) {
      await sink.abandon();
      await rm(outputPath, { force: true });
      throw error;
    }
  } finally {
    await source.close();
  }
}

async function write(source: FileSource, sink: FileSink, fileName: string, preparation: Preparation): Promise<void> {
  const reader = await PcmReader.open(source, fileName);
  const { sampleRateHz, channels, channelMask } = reader.header.format;
  const { startFrame, endFrame, mix, removeDc } = preparation;
  const frames = endFrame - startFrame;
  const isPair = channels === 2;
  const writer = await createWavWriter(sink, {
    sampleRateHz,
    channels: isPair ? mixedChannels(mix) : channels,
    channelMask: isPair && mixedChannels(mix) === 1 ? 0 : channelMask,
    frames,
    bitDepth: 32,
  });
  const means = removeDc ? await meansOf(reader, preparation) : undefined;
  for await (const planar of kept(reader, preparation)) {
    means?.forEach((mean, c) => {
      const samples = planar[c] as Float32Array;
      for (let n = 0; n < samples.length; n++) samples[n] = (samples[n] as number) - mean;
    });
    const mixed = isPair ? mixChannels(planar as [Float32Array, Float32Array], mix) : planar;
    await writer.write(mixed, planar[0]?.length ?? 0, 1);
  }
  if (reader.frame < endFrame) throw new AppError('source-changed', { fileName });
  await writer.finish();
  await sink.finish();
}

/** The frames that are kept, from first to last: the arrays are used again by the next. */
async function* kept(reader: PcmReader, { startFrame, endFrame }: Preparation): AsyncGenerator<Float32Array[]> {
  reader.seek(startFrame);
  for (let piece = await reader.next(); piece; piece = await reader.next()) {
    const first = reader.frame - piece.frames;
    const frames = Math.min(piece.frames, endFrame - first);
    if (frames <= 0) return;
    yield piece.channels.map((samples) => samples.subarray(0, frames));
    if (reader.frame >= endFrame) return;
  }
}

async function meansOf(reader: PcmReader, preparation: Preparation): Promise<number[]> {
  const sums = new Float64Array(reader.header.format.channels);
  for await (const planar of kept(reader, preparation)) {
    planar.forEach((samples, c) => {
      let sum = 0;
      for (let n = 0; n < samples.length; n++) sum += samples[n] as number;
      sums[c] = (sums[c] as number) + sum;
    });
  }
  return Array.from(sums, (sum) => sum / (preparation.endFrame - preparation.startFrame));
}
