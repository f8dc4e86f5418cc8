import { AppError } from '@/core/errors/app-error';
import { INPUT_GUARDS, inputUrl, runFfmpeg } from './ffmpeg';
import type { Probed } from './probe';

const TIMEOUT_MS = 3_600_000;

/** SHA-256 of what is coded: of the packets of the first sound track, as they lie there. */
export async function packetsHash(path: string, fileName: string, signal?: AbortSignal): Promise<string> {
  return (await hashOf(path, ['-map', '0:a:0', '-c', 'copy'], fileName, signal)).sha256;
}

/**
 * SHA-256 of the samples that a file without loss is decoded to, as `hashSamples` has it of a PCM file, and how many complaints
 * the decoder had. Nothing is written.
 */
export function samplesHash(
  path: string,
  { sampleCodec }: Pick<Probed, 'sampleCodec'>,
  fileName: string,
  signal?: AbortSignal,
): Promise<{ sha256: string; decodeErrors: number }> {
  return hashOf(path, ['-map', '0:a:0', '-c:a', sampleCodec], fileName, signal);
}

async function hashOf(path: string, what: readonly string[], fileName: string, signal: AbortSignal | undefined) {
  let printed = '';
  const complaints = await runFfmpeg(
    'ffmpeg',
    [
      ...['-nostdin', '-v', 'error', ...INPUT_GUARDS, '-i', inputUrl(path)],
      ...[...what, '-f', 'hash', '-hash', 'sha256', '-'],
    ],
    fileName,
    {
      signal,
      timeoutMs: TIMEOUT_MS,
      onOutput: (text) => {
        printed += text;
      },
    },
  );
  const sha256 = /=([0-9a-f]{64})/i.exec(printed)?.[1]?.toLowerCase();
  if (!sha256) throw new AppError('decode-failed', { fileName, reason: 'it holds no sound that can be decoded' });
  return { sha256, decodeErrors: complaints.split('\n').filter((line) => line.trim() !== '').length };
}
