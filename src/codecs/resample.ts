import { inputUrl, OWN_WAV_GUARDS, runFfmpeg } from './ffmpeg';

/** soxr's highest precision in bits: images and aliases lie below −140 dB. */
const PRECISION_BITS = 33;
/** Without it soxr rolls off ahead of its pass band's end: 0.002 dB at 19 kHz, by 44.1 kHz. */
const PASS_BAND = 'cheby=1';
const LEAST_TIMEOUT_MS = 120_000;
const MOST_TIMES_SLOWER = 10;

export interface ResampleOptions {
  fromHz: number;
  toHz: number;
  /** Of the WAV at `path`. */
  frames: number;
  fileName: string;
  signal?: AbortSignal | undefined;
  /** Called with the seconds of sound that are done. */
  onProgress?: ((seconds: number) => void) | undefined;
}

/**
 * Brings a WAV of 32-bit floats to another rate, as one of 32-bit floats (RF64 beyond 4 GB): FFmpeg's soxr, linear phase,
 * aligned with what came in. Its length may be off by a few frames, which the reader evens out.
 * Throws `ffmpeg-missing`, `cancelled` or `decode-failed`.
 */
export async function resampleWav(
  path: string,
  outputPath: string,
  { fromHz, toHz, frames, fileName, signal, onProgress }: ResampleOptions,
): Promise<void> {
  const seconds = frames / fromHz;
  await runFfmpeg(
    'ffmpeg',
    [
      ...['-nostdin', '-v', 'error', '-progress', 'pipe:1', ...OWN_WAV_GUARDS, '-i', inputUrl(path)],
      ...[
        '-af',
        `aresample=${toHz}:resampler=soxr:precision=${PRECISION_BITS}:${PASS_BAND}:osf=flt`,
        '-map_metadata',
        '-1',
      ],
      ...['-c:a', 'pcm_f32le', '-rf64', 'auto', '-f', 'wav', '-y', inputUrl(outputPath)],
    ],
    fileName,
    {
      signal,
      timeoutMs: Math.max(LEAST_TIMEOUT_MS, MOST_TIMES_SLOWER * 1000 * seconds),
      onOutput: (text) => {
        const micros = /out_time_us=(\d+)/.exec(text)?.[1];
        if (micros) onProgress?.(Number(micros) / 1e6);
      },
    },
  );
}
