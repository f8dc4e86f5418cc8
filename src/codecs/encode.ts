import type { FileKind } from '@/core/delivery/file-kinds';
import type { ResolvedFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import type { WrittenDepth } from '@/formats/pack';
import { inputUrl, OWN_WAV_GUARDS, runFfmpeg } from './ffmpeg';

/** Kinds that are written by an encoder. */
export type EncodedKind = Exclude<FileKind, 'wav' | 'bw64' | 'aiff'>;

/** What an encoder has to know. */
export type EncodedFormat = Pick<ResolvedFormat, 'mode' | 'bitRateKbps' | 'sampleRateHz'> & { kind: EncodedKind };

export function isEncoded(kind: FileKind): kind is EncodedKind {
  return kind !== 'wav' && kind !== 'bw64' && kind !== 'aiff';
}

/** LAME's qualities by the rate in kbit/s that they come to in stereo, and Vorbis's (both from memory of their documentation). */
const LAME_QUALITY: Readonly<Record<number, number>> = {
  245: 0,
  225: 1,
  190: 2,
  175: 3,
  165: 4,
  130: 5,
  115: 6,
  100: 7,
};
const VORBIS_QUALITY: Readonly<Record<number, number>> = {
  64: 0,
  80: 1,
  96: 2,
  112: 3,
  128: 4,
  160: 5,
  192: 6,
  224: 7,
  256: 8,
  320: 9,
  500: 10,
};

const MUXERS: Readonly<Record<EncodedKind, string>> = {
  flac: 'flac',
  mp3: 'mp3',
  m4a: 'ipod',
  opus: 'opus',
  ogg: 'ogg',
  mp2: 'mp2',
};

/** The samples that an encoder is given: those that the file keeps, or as fine as it can take them. */
export function encodedDepth({ kind, bitDepth }: Pick<ResolvedFormat, 'kind' | 'bitDepth'>): WrittenDepth {
  // MP2's takes integers of 16 bits only, and would drop the rest without dither.
  return bitDepth ?? (kind === 'mp2' ? 16 : 32);
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
      ...encoderArguments(format),
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

/** How a format is encoded, and the container that tells what the encoder has put ahead and behind. */
function encoderArguments({ kind, mode, bitRateKbps, sampleRateHz }: EncodedFormat): string[] {
  const bitRate = ['-b:a', `${bitRateKbps}k`];
  const muxer = ['-f', MUXERS[kind]];
  switch (kind) {
    case 'flac':
      return ['-c:a', 'flac', ...muxer];
    case 'mp3': {
      const quality = mode === 'variable' ? ['-q:a', `${LAME_QUALITY[bitRateKbps ?? 190] ?? 2}`] : bitRate;
      return ['-c:a', 'libmp3lame', ...quality, '-id3v2_version', '3', ...muxer];
    }
    case 'm4a':
      // Noise in place of what is left out, and one channel in place of two, move peaks by a decibel from one coding to the next.
      // Its edit list counts in the movie's own time, which is milliseconds unless it is told to be frames.
      return [
        ...['-c:a', 'aac', ...bitRate, '-aac_pns', '0', '-aac_is', '0'],
        ...['-movie_timescale', `${sampleRateHz}`, '-movflags', '+faststart', ...muxer],
      ];
    case 'opus':
      return ['-c:a', 'libopus', ...bitRate, '-vbr', mode === 'constant' ? 'off' : 'on', ...muxer];
    case 'ogg':
      return ['-c:a', 'libvorbis', '-q:a', `${VORBIS_QUALITY[bitRateKbps ?? 192] ?? 6}`, ...muxer];
    case 'mp2':
      return ['-c:a', 'mp2', ...bitRate, ...muxer];
  }
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
  const system = SYSTEM_REASONS.find(([pattern]) => pattern.test(reason));
  return system
    ? new AppError('not-writable', { fileName, reason: system[1] })
    : new AppError('encode-failed', { fileName, reason });
}
