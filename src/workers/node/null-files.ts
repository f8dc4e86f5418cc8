import { AppError } from '@/core/errors/app-error';
import { type NullSource, residualOf } from '@/core/lineup/null/null-source';
import { type NullReading, nullTest } from '@/core/lineup/null/null-test';
import { formatSampleRate } from '@/core/units/format';
import type { PcmHeader } from '@/formats/pcm-header';
import { PcmReader } from '@/formats/pcm-reader';
import type { NullFile } from '../protocol';
import { FileSource } from './file-bytes';
import { readStretch } from './pcm-stretch';
import type { RunOptions } from './progress';

/** What may be left of files that hold so few bits, and of those that hold more: rounding and dither of a dozen files lie below. */
const TOLERANCE_16_BITS_DB = -80;
const TOLERANCE_DB = -100;

/** Opens files that are to be compared, for as long as that takes. */
async function withSources<T>(
  files: readonly NullFile[],
  use: (sources: [NullSource, ...NullSource[]], headers: [PcmHeader, ...PcmHeader[]]) => Promise<T>,
): Promise<T> {
  const opened: FileSource[] = [];
  try {
    const readers: PcmReader[] = [];
    for (const { path, fileName } of files) {
      const file = await FileSource.open(path, fileName);
      opened.push(file);
      readers.push(await PcmReader.open(file, fileName));
    }
    const headers = readers.map(({ header }) => header) as [PcmHeader, ...PcmHeader[]];
    headers.slice(1).forEach((header, i) => {
      checkAlike(headers[0], header, files[0]?.fileName ?? '', files[i + 1]?.fileName ?? '');
    });
    const sources = files.map((file, i) => sourceOf(readers[i] as PcmReader, file));
    return await use(sources as [NullSource, ...NullSource[]], headers);
  } finally {
    await Promise.all(opened.map((file) => file.close()));
  }
}

/**
 * Compares a file with the sum of others. What may be left is what the rounding of the files' depths leaves, unless it is stated.
 *
 * @throws AppError `usage` where rates or channels differ, and what opening a file throws
 */
export function nullFiles(
  mix: NullFile,
  stems: readonly NullFile[],
  options: RunOptions & { toleranceDb?: number | undefined } = {},
): Promise<NullReading> {
  return withSources([mix, ...stems], ([mixSource, ...stemSources], headers) => {
    const { sampleRateHz, channels } = headers[0].format;
    const isCoarse = headers.some(({ format }) => format.sampleFormat === 'integer' && (format.bitDepth ?? 32) <= 16);
    const onProgress = options.onProgress;
    return nullTest(mixSource, stemSources, {
      sampleRateHz,
      channels,
      toleranceDb: options.toleranceDb ?? (isCoarse ? TOLERANCE_16_BITS_DB : TOLERANCE_DB),
      signal: options.signal,
      onProgress: onProgress && ((fraction) => onProgress({ fraction, timesRealTime: null })),
    });
  });
}

/** What a file has that the sum of others has not, in a stretch of it: planar samples. Throws as `nullFiles`. */
export function residualStretch(
  mix: NullFile,
  stems: readonly NullFile[],
  { startFrame, frames }: { startFrame: number; frames: number },
): Promise<Float32Array[]> {
  return withSources([mix, ...stems], async ([mixSource, ...stemSources]) => {
    const block = await Promise.all([...stemSources, mixSource].map((source) => source.read(startFrame, frames)));
    return residualOf(block);
  });
}

function sourceOf(reader: PcmReader, { fileName, offsetFrames }: NullFile): NullSource {
  return {
    name: fileName,
    frames: Math.max(0, reader.header.format.frames + offsetFrames),
    read: (startFrame, frames) => readStretch(reader, startFrame - offsetFrames, frames),
  };
}

function checkAlike(mix: PcmHeader, stem: PcmHeader, mixName: string, stemName: string): void {
  const differ = (of: (header: PcmHeader) => string) => {
    const [a, b] = [of(mix), of(stem)];
    if (a === b) return;
    throw new AppError('usage', {
      reason: `${stemName} has ${b} and ${mixName} has ${a}; a null test needs them alike`,
    });
  };
  differ(({ format }) => formatSampleRate(format.sampleRateHz));
  differ(({ format }) => `${format.channels} ${format.channels === 1 ? 'channel' : 'channels'}`);
}
