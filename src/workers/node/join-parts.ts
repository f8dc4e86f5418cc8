import { rm } from 'node:fs/promises';
import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { CROSSFADE } from '@/core/lineup/joined';
import { applyFades } from '@/core/treatment/steps/fade';
import { PcmReader } from '@/formats/pcm-reader';
import { createWavWriter } from '@/formats/wav/writer';
import type { PartFile } from '../protocol';
import { FileSink, FileSource } from './file-bytes';
import { readStretch } from './pcm-stretch';
import { ProgressReporter, type RunOptions } from './progress';

const PIECE_FRAMES = 65_536;

/**
 * Adds files up to one of 32-bit floats, each in its place, with silence wherever there is none. All have one rate and as many channels.
 * `outputPath` must not exist; whatever goes wrong, nothing is left there.
 *
 * @param frames of the whole
 * @throws AppError `source-changed` where a file is not as long as it was
 */
export async function joinParts(
  parts: readonly PartFile[],
  frames: number,
  outputPath: string,
  options: RunOptions = {},
): Promise<void> {
  const open = new Map<PartFile, OpenPart>();
  const sink = await FileSink.create(outputPath);
  try {
    const [first] = parts;
    if (!first) throw new RangeError('nothing to join');
    const { sampleRateHz, channels, channelMask } = (await opened(first)).reader.header.format;
    const writer = await createWavWriter(sink, { sampleRateHz, channels, channelMask, frames, bitDepth: 32 });
    const progress = new ProgressReporter(frames, sampleRateHz, options);
    for (let at = 0; at < frames; at += PIECE_FRAMES) {
      const count = Math.min(PIECE_FRAMES, frames - at);
      const sum = Array.from({ length: channels }, () => new Float32Array(count));
      for (const part of parts) {
        const from = Math.max(at, part.startFrame);
        const to = Math.min(at + count, part.startFrame + part.frames);
        if (from < to) await add(sum, part, from, to, from - at);
        else if (to <= at) await close(part);
      }
      await writer.write(sum, count, 1);
      progress.at(at + count);
    }
    await writer.finish();
    await sink.finish();
  } catch (error) {
    await sink.abandon().catch(() => undefined);
    await rm(outputPath, { force: true });
    throw error;
  } finally {
    for (const part of [...open.keys()]) await close(part);
  }

  async function add(sum: Float32Array[], part: PartFile, from: number, to: number, offset: number): Promise<void> {
    const { reader } = await opened(part);
    const stretch = await readStretch(reader, from - part.startFrame, to - from);
    const fade = (length: number) => (length > 0 ? { frames: length, shape: CROSSFADE } : null);
    applyFades(stretch, to - from, from - part.startFrame, part.frames, {
      fadeIn: fade(part.fadeInFrames),
      fadeOut: fade(part.fadeOutFrames),
    });
    stretch.forEach((samples, channel) => {
      const target = sum[channel] as Float32Array;
      for (let n = 0; n < samples.length; n++)
        target[offset + n] = (target[offset + n] as number) + (samples[n] as number);
    });
  }

  async function opened(part: PartFile): Promise<OpenPart> {
    const known = open.get(part);
    if (known) return known;
    const source = await FileSource.open(part.path);
    const own = { source, reader: await PcmReader.open(source, basename(part.path)) };
    open.set(part, own);
    const { format } = own.reader.header;
    if (format.frames !== part.frames) throw new AppError('source-changed', { fileName: basename(part.path) });
    const { format: wanted } = ([...open.values()][0] as OpenPart).reader.header;
    if (format.channels !== wanted.channels || format.sampleRateHz !== wanted.sampleRateHz) {
      throw new RangeError(`${basename(part.path)} has another rate or number of channels`);
    }
    return own;
  }

  async function close(part: PartFile): Promise<void> {
    const own = open.get(part);
    open.delete(part);
    await own?.source.close();
  }
}

interface OpenPart {
  source: FileSource;
  reader: PcmReader;
}
