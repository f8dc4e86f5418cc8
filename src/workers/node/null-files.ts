import { AppError } from '@/core/errors/app-error';
import type { NullSource } from '@/core/lineup/null/null-source';
import { type NullReading, nullTest } from '@/core/lineup/null/null-test';
import { formatSampleRate } from '@/core/units/format';
import type { PcmHeader } from '@/formats/pcm-header';
import { PcmReader } from '@/formats/pcm-reader';
import { FileSource } from './file-bytes';
import { readStretch } from './pcm-stretch';
import type { RunOptions } from './progress';

/** A file of PCM samples in a null test. */
export interface NullFile {
  path: string;
  /** What a person calls it. */
  fileName: string;
  /** Frames by which it begins later than the others are counted from. */
  offsetFrames: number;
}

/** What may be left of files that hold so few bits, and of those that hold more: rounding and dither of a dozen files lie below. */
const TOLERANCE_16_BITS_DB = -80;
const TOLERANCE_DB = -100;

/**
 * Holds a file against the sum of others. What may be left is what the rounding of the files' depths leaves, unless it is stated.
 *
 * @throws AppError `usage` where rates or channels differ, and what opening a file throws
 */
export async function nullFiles(
  mix: NullFile,
  stems: readonly NullFile[],
  options: RunOptions & { toleranceDb?: number | undefined } = {},
): Promise<NullReading> {
  const opened: FileSource[] = [];
  try {
    const readers: PcmReader[] = [];
    for (const { path, fileName } of [mix, ...stems]) {
      const file = await FileSource.open(path, fileName);
      opened.push(file);
      readers.push(await PcmReader.open(file, fileName));
    }
    const [first, ...others] = readers.map(({ header }) => header) as [PcmHeader, ...PcmHeader[]];
    others.forEach((header, i) => {
      checkAlike(first, header, mix.fileName, stems[i]?.fileName ?? '');
    });
    const [mixSource, ...stemSources] = [mix, ...stems].map((file, i) => sourceOf(readers[i] as PcmReader, file)) as [
      NullSource,
      ...NullSource[],
    ];
    const { sampleRateHz, channels } = first.format;
    const isCoarse = [first, ...others].some(
      ({ format }) => format.sampleFormat === 'integer' && (format.bitDepth ?? 32) <= 16,
    );
    const onProgress = options.onProgress;
    return await nullTest(mixSource, stemSources, {
      sampleRateHz,
      channels,
      toleranceDb: options.toleranceDb ?? (isCoarse ? TOLERANCE_16_BITS_DB : TOLERANCE_DB),
      signal: options.signal,
      onProgress: onProgress && ((fraction) => onProgress({ fraction, timesRealTime: null })),
    });
  } finally {
    await Promise.all(opened.map((file) => file.close()));
  }
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
