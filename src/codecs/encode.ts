import type { ResolvedFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import type { EncoderSettings } from '@/core/file-formats/file-format';
import { FILE_FORMATS, type FileKind } from '@/core/file-formats/file-formats';
import type { WrittenDepth } from '@/formats/pack';
import { inputUrl, OWN_WAV_GUARDS, runFfmpeg } from './ffmpeg';

/** What is encoded, and how; of a kind that an encoder is for. */
export type EncodedFormat = EncoderSettings & { kind: FileKind };

/** The samples that an encoder is given: those that the file keeps, or as fine as it can take them. */
export function encodedDepth({ kind, bitDepth }: Pick<ResolvedFormat, 'kind' | 'bitDepth'>): WrittenDepth {
  return bitDepth ?? FILE_FORMATS[kind].encoder?.depth ?? 32;
}

const NO_METADATA = ['-map_metadata', '-1', '-map_chapters', '-1'];

const LEAST_TIMEOUT_MS = 120_000;
const MOST_TIMES_SLOWER = 10;

export interface EncodeOptions {
  /** Of the WAV. */
  durationSeconds: number;
  /** A file of chapters, as `ffmetadata` has them, for a kind that carries them itself. */
  chaptersPath?: string | undefined;
  /** What a person calls the file. */
  fileName: string;
  signal?: AbortSignal | undefined;
  /** Called with the seconds of sound that are done. */
  onProgress?: ((seconds: number) => void) | undefined;
}

/**
 * Encodes a WAV of our own, of the depth that `encodedDepth` says. The file says nothing of itself: see `tagFile`. Nothing that stands at `outputPath` is overwritten; the
 * file there is not flushed.
 *
 * @param format one that `formatProblems` finds nothing against, or the file comes at another rate
 * @throws AppError `ffmpeg-missing`, `cancelled`, `not-writable` or `encode-failed`
 */
export async function encode(
  wavPath: string,
  outputPath: string,
  format: EncodedFormat,
  { durationSeconds, chaptersPath, fileName, signal, onProgress }: EncodeOptions,
): Promise<void> {
  await runFfmpeg(
    'ffmpeg',
    [
      ...['-nostdin', '-v', 'error', '-progress', 'pipe:1', ...OWN_WAV_GUARDS, '-i', inputUrl(wavPath)],
      ...(chaptersPath ? ['-f', 'ffmetadata', '-i', inputUrl(chaptersPath)] : []),
      // Of the WAV's own tags nothing is taken over.
      ...['-map', '0:a', ...(chaptersPath ? ['-map_metadata', '1', '-map_chapters', '1'] : NO_METADATA)],
      ...(FILE_FORMATS[format.kind].encoder?.arguments(format) ?? []),
      ...['-n', inputUrl(outputPath)],
    ],
    fileName,
    {
      signal,
      timeoutMs: Math.max(LEAST_TIMEOUT_MS, MOST_TIMES_SLOWER * 1000 * durationSeconds),
      fail: encodeFailed,
      onOutput: (text) => {
        const micros = /out_time_us=(\d+)/.exec(text)?.[1];
        if (micros) onProgress?.(Number(micros) / 1e6);
      },
    },
  );
}

const SYSTEM_REASONS = [
  [/no space left/i, 'the disk is full'],
  [/file too large/i, 'it is larger than this disk or user may hold'],
  [/disk quota/i, 'the disk quota is used up'],
  [/permission denied/i, 'permission denied'],
  [/read-only file system/i, 'the disk is read-only'],
  [/no such file or directory/i, 'its folder does not exist'],
] as const;

function encodeFailed(fileName: string, reason: string): AppError {
  return notWritable(fileName, reason) ?? new AppError('encode-failed', { fileName, reason });
}

/** The error of a file that FFmpeg could not write for a reason of the system's; undefined for any other. */
export function notWritable(fileName: string, reason: string): AppError | undefined {
  const system = SYSTEM_REASONS.find(([pattern]) => pattern.test(reason));
  return system && new AppError('not-writable', { fileName, reason: system[1] });
}
