import { createHash } from 'node:crypto';
import { rm } from 'node:fs/promises';
import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { channelLayout } from '@/core/loudness/channel-layout';
import type { Readings } from '@/core/loudness/readings';
import { sampleBytes } from '@/core/units/sample-encoding';
import { type ChunkBody, chunksOf, readChunk } from '@/formats/chunks';
import { readPcmHeader } from '@/formats/open-pcm';
import type { PcmHeader } from '@/formats/pcm-header';
import { LOUDNESS_AT, loudnessFields } from '@/formats/wav/bext';
import { wavHeader } from '@/formats/wav/writer';
import { FileSink, FileSource, patchFile } from './file-bytes';

const PIECE_BYTES = 1 << 20;
/** More than any of ours has. */
const MOST_CHUNK_BYTES = 64_000_000;

/**
 * SHA-256 of a PCM file's samples, interleaved, little-endian and of the depth that they have: the same sound in another
 * container has the same.
 *
 * @param range of the frames that are hashed; all, unless it is stated
 */
export function hashSamples(path: string, range?: { startFrame: number; endFrame: number }): Promise<string> {
  return withHeader(path, async (file, header) => {
    const hash = createHash('sha256');
    const width = sampleBytes(header.encoding);
    for await (const bytes of piecesOf(file, header, range))
      hash.update(header.encoding.isBigEndian ? swapped(bytes, width) : bytes);
    return hash.digest('hex');
  });
}

/**
 * Whether a PCM file has the samples of another, from one of its frames on: all of them, kept in the same way. What it has behind them
 * does not matter.
 */
export function haveSameSamples(path: string, startFrame: number, otherPath: string): Promise<boolean> {
  return withHeader(path, (file, header) =>
    withHeader(otherPath, async (other, otherHeader) => {
      const { encoding, frameBytes, format } = otherHeader;
      const endFrame = startFrame + format.frames;
      const isAlike = encoding.type === header.encoding.type && encoding.isBigEndian === header.encoding.isBigEndian;
      if (!isAlike || frameBytes !== header.frameBytes || endFrame > header.format.frames) return false;
      const others = piecesOf(other, otherHeader);
      for await (const piece of piecesOf(file, header, { startFrame, endFrame })) {
        const next = await others.next();
        if (next.done || Buffer.compare(piece, next.value) !== 0) return false;
      }
      return true;
    }),
  );
}

/**
 * Writes each channel of a WAV of ours as a WAV of its own, the bytes of its samples as they are, with what the whole says of
 * itself, and flushes it.
 *
 * @param outputPaths one for each channel; none may exist
 */
export async function splitChannels(path: string, outputPaths: readonly string[]): Promise<void> {
  await withHeader(path, async (file, header) => {
    const { sampleRateHz, frames, bitDepth } = header.format;
    const width = sampleBytes(header.encoding);
    const sinks: FileSink[] = [];
    try {
      for (const outputPath of outputPaths) sinks.push(await FileSink.create(outputPath));
      const layout = { sampleRateHz, channels: 1, channelMask: 0, frames, bitDepth: bitDepth as 16 | 24 | 32 };
      const chunks = await ownChunks(file);
      for (const sink of sinks) await sink.write(wavHeader({ ...layout, chunks }));
      for await (const bytes of piecesOf(file, header)) {
        for (const [channel, sink] of sinks.entries()) {
          await sink.write(ofChannel(bytes, channel * width, width, header.frameBytes));
        }
      }
      if ((frames * width) % 2 === 1) for (const sink of sinks) await sink.write(new Uint8Array(1));
      for (const sink of sinks) await sink.finish();
    } catch (error) {
      for (const sink of sinks) await sink.abandon().catch(() => undefined);
      for (const outputPath of outputPaths) await rm(outputPath, { force: true });
      throw error;
    }
  });
}

/** What stands beside a file's samples, but for what speaks of all channels together. */
async function ownChunks(file: FileSource): Promise<ChunkBody[]> {
  const chunks: ChunkBody[] = [];
  for await (const chunk of chunksOf(file, true)) {
    if (['fmt ', 'fact', 'ds64', 'data', 'chna'].includes(chunk.id)) continue;
    chunks.push({ id: chunk.id, body: await readChunk(file, chunk, MOST_CHUNK_BYTES) });
  }
  return chunks;
}

/** Puts WAVs of one channel each together again, as a WAV of all of them; `outputPath` must not exist. */
export async function joinChannels(paths: readonly string[], outputPath: string): Promise<void> {
  const files: FileSource[] = [];
  let sink: FileSink | undefined;
  try {
    for (const path of paths) files.push(await FileSource.open(path));
    const headers = await Promise.all(files.map((file) => readPcmHeader(file, basename(outputPath))));
    const [first] = headers as [PcmHeader, ...PcmHeader[]];
    const { sampleRateHz, frames, bitDepth } = first.format;
    const isAlike = headers.every(
      ({ format, frameBytes }) => format.frames === frames && frameBytes === first.frameBytes,
    );
    if (!isAlike) throw new AppError('not-as-written', { fileName: basename(outputPath) });
    const channels = paths.length;
    sink = await FileSink.create(outputPath);
    const layout = { sampleRateHz, channels, frames, bitDepth: bitDepth as 16 | 24 | 32 };
    await sink.write(wavHeader({ ...layout, channelMask: channelLayout(channels, 0).mask }));
    const width = first.frameBytes;
    const pieceFrames = Math.floor(PIECE_BYTES / width);
    const own = new Uint8Array(pieceFrames * width);
    for (let frame = 0; frame < frames; frame += pieceFrames) {
      const count = Math.min(pieceFrames, frames - frame);
      const joined = new Uint8Array(count * width * channels);
      for (const [channel, file] of files.entries()) {
        await file.read(own.subarray(0, count * width), (headers[channel] as PcmHeader).dataOffset + frame * width);
        for (let from = 0, to = channel * width; from < count * width; from += width, to += width * channels) {
          for (let i = 0; i < width; i++) joined[to + i] = own[from + i] ?? 0;
        }
      }
      await sink.write(joined);
    }
    if ((frames * width * channels) % 2 === 1) await sink.write(new Uint8Array(1));
    await sink.finish();
  } catch (error) {
    await sink?.abandon().catch(() => undefined);
    await rm(outputPath, { force: true });
    throw error;
  } finally {
    for (const file of files) await file.close();
  }
}

/** Reads files of one channel each back, and makes sure that together they are the samples of an interleaved one. */
export async function checkSplit(path: string, splitPaths: readonly string[]): Promise<void> {
  await withHeader(path, async (file, header) => {
    const width = sampleBytes(header.encoding);
    for (const [channel, splitPath] of splitPaths.entries()) {
      await withHeader(splitPath, async (own, ownHeader) => {
        const mine = new Uint8Array(PIECE_BYTES);
        let at = ownHeader.dataOffset;
        for await (const bytes of piecesOf(file, header)) {
          const wanted = ofChannel(bytes, channel * width, width, header.frameBytes);
          const found = mine.subarray(0, wanted.length);
          const filled = await own.read(found, at);
          at += filled;
          if (filled < wanted.length || Buffer.compare(found, wanted) !== 0) {
            throw new AppError('not-as-written', { fileName: basename(splitPath) });
          }
        }
      });
    }
  });
}

/** States what was measured in a WAV's broadcast extension, which must be one of ours, and flushes it. */
export async function stampLoudness(path: string, readings: Readings): Promise<void> {
  const offset = await withHeader(path, async (file) => {
    for await (const chunk of chunksOf(file, true)) if (chunk.id === 'bext') return chunk.offset;
    return undefined;
  });
  if (offset !== undefined) await patchFile(path, offset + LOUDNESS_AT, loudnessFields(readings));
}

async function withHeader<T>(path: string, use: (file: FileSource, header: PcmHeader) => Promise<T>): Promise<T> {
  const file = await FileSource.open(path);
  try {
    return await use(file, await readPcmHeader(file, basename(path)));
  } finally {
    await file.close();
  }
}

/** Whole frames of samples, in order. What is handed on is used again. */
async function* piecesOf(
  file: FileSource,
  { format, dataOffset, frameBytes }: PcmHeader,
  { startFrame, endFrame } = { startFrame: 0, endFrame: format.frames },
): AsyncGenerator<Uint8Array> {
  const buffer = new Uint8Array(Math.max(1, Math.floor(PIECE_BYTES / frameBytes)) * frameBytes);
  const end = dataOffset + Math.min(endFrame, format.frames) * frameBytes;
  for (let at = dataOffset + startFrame * frameBytes; at < end; at += buffer.length) {
    const piece = buffer.subarray(0, Math.min(buffer.length, end - at));
    await file.read(piece, at);
    yield piece;
  }
}

function ofChannel(bytes: Uint8Array, from: number, width: number, stride: number): Uint8Array {
  const own = new Uint8Array((bytes.length / stride) * width);
  for (let at = from, to = 0; at < bytes.length; at += stride, to += width) {
    for (let i = 0; i < width; i++) own[to + i] = bytes[at + i] ?? 0;
  }
  return own;
}

function swapped(bytes: Uint8Array, width: number): Uint8Array {
  const copy = new Uint8Array(bytes.length);
  for (let at = 0; at < bytes.length; at += width) {
    for (let i = 0; i < width; i++) copy[at + i] = bytes[at + width - 1 - i] ?? 0;
  }
  return copy;
}
