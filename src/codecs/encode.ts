import type { PreviewCodecId } from '@/formats/preview-codecs';
import { inputUrl, OWN_WAV_GUARDS, runFfmpeg } from './ffmpeg';

/** How each is encoded, and the container that tells what the encoder has put ahead and behind. */
const ENCODERS: Readonly<Record<PreviewCodecId, { options: readonly string[]; muxer: string }>> = {
  'mp3-128': { options: ['-c:a', 'libmp3lame', '-b:a', '128k'], muxer: 'mp3' },
  'mp3-320': { options: ['-c:a', 'libmp3lame', '-b:a', '320k'], muxer: 'mp3' },
  'aac-128': { options: ['-c:a', 'aac', '-b:a', '128k'], muxer: 'ipod' },
  'opus-96': { options: ['-c:a', 'libopus', '-b:a', '96k'], muxer: 'ogg' },
};
const TIMEOUT_MS = 60_000;

/** Encodes a WAV of our own. */
export async function encodePreview(
  wavPath: string,
  outputPath: string,
  codec: PreviewCodecId,
  fileName: string,
  signal?: AbortSignal,
): Promise<void> {
  const { options, muxer } = ENCODERS[codec];
  await runFfmpeg(
    'ffmpeg',
    [
      ...['-nostdin', '-v', 'error', ...OWN_WAV_GUARDS, '-i', inputUrl(wavPath), '-map_metadata', '-1'],
      ...[...options, '-f', muxer, '-y', inputUrl(outputPath)],
    ],
    fileName,
    { timeoutMs: TIMEOUT_MS, signal, onOutput: () => undefined },
  );
}
