import { AppError } from '@/core/errors/app-error';
import { INPUT_GUARDS, inputUrl, runFfmpeg } from './ffmpeg';
import { type Probed, probeMetadata } from './probe';

/** A process that hangs is ended; one that is slow gets a tenth of real time. */
const LEAST_TIMEOUT_MS = 120_000;
const MOST_TIMES_SLOWER = 10;
/** What a file may grow to beyond what it states, before it is taken for a trap. */
const MOST_TIMES_LARGER = 2;
const SLACK_BYTES = 256_000_000;

export interface DecodeOptions {
  /** Where the sound ends, of a file that says so to the frame and whose decoder does not heed it. */
  endFrame?: number | undefined;
  /** What is decoded says when it begins, as its file does: written files go on from there. */
  isTimed?: boolean | undefined;
  signal?: AbortSignal | undefined;
  /** Called with the seconds of sound that are decoded. */
  onProgress?: ((seconds: number) => void) | undefined;
}

/**
 * Decodes one sound track to a WAV (RF64 beyond 4 GB) at `outputPath`, every frame of it and no other: what an encoder
 * puts ahead and behind is left out where the file tells. Floats keep what stands beyond full scale.
 *
 * @returns how many complaints the decoder had
 */
export async function decode(
  path: string,
  { format, codecName, sampleCodec }: Probed,
  outputPath: string,
  fileName: string,
  { endFrame, isTimed = false, signal, onProgress }: DecodeOptions = {},
): Promise<number> {
  const bytes = format.frames * format.channels * 4;
  const track = (format.track?.number ?? 1) - 1;
  // AC-3 carries orders to squeeze its dynamics; what is measured is the sound as it was encoded.
  const decoderOptions = /ac3$/.test(codecName) ? ['-drc_scale', '0'] : [];
  const cut = endFrame === undefined ? [] : ['-af', `atrim=end_sample=${endFrame}`];
  const begins = isTimed ? (await probeMetadata(path, fileName, format)).timeReferenceFrames : null;
  const bext = begins === null ? [] : ['-write_bext', '1', '-metadata', `time_reference=${begins}`];
  const stderr = await runFfmpeg(
    'ffmpeg',
    [
      ...['-nostdin', '-v', 'error', '-progress', 'pipe:1', ...decoderOptions, ...INPUT_GUARDS, '-i', inputUrl(path)],
      ...['-map', `0:a:${track}`, '-map_metadata', '-1', ...bext, ...cut, '-c:a', sampleCodec],
      ...['-rf64', 'auto', '-f', 'wav', '-y', inputUrl(outputPath)],
    ],
    fileName,
    {
      signal,
      timeoutMs: Math.max(LEAST_TIMEOUT_MS, MOST_TIMES_SLOWER * 1000 * format.durationSeconds),
      onOutput: (text) => {
        const written = Number(/total_size=(\d+)/.exec(text)?.[1] ?? 0);
        if (written > MOST_TIMES_LARGER * bytes + SLACK_BYTES) {
          throw new AppError('decode-failed', { fileName, reason: 'it is far longer than it states' });
        }
        const micros = /out_time_us=(\d+)/.exec(text)?.[1];
        if (micros) onProgress?.(Number(micros) / 1e6);
      },
    },
  );
  return stderr.split('\n').filter((line) => line.trim() !== '').length;
}
