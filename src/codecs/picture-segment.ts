/** A film as it is shown beside its sound: small silent segments, whatever it came as. */
import { AppError } from '@/core/errors/app-error';
import { ask, pictureStream } from './ask-ffmpeg';
import { INPUT_GUARDS, inputUrl, runFfmpeg } from './ffmpeg';
import { startsOf } from './put-back';

/** Large enough to see lips move, small enough to be made while one waits. */
const MOST_WIDTH_PX = 480;
const TIMEOUT_MS = 60_000;
/** Square pixels of even sides, as the coder wants them. */
const SCALED = `scale='trunc(min(${MOST_WIDTH_PX},iw*sar)/2)*2':'trunc(ow/dar/2)*2',setsar=1`;

/** When picture and sound of a film begin, in seconds by its clock, and how long the picture is. Null where it has none. */
export async function pictureAndSound(
  path: string,
  fileName: string,
  tracks: readonly number[],
): Promise<{ pictureSeconds: number; soundSeconds: number; durationSeconds: number } | null> {
  const { streams, format } = await ask(path, fileName);
  const picture = pictureStream(streams);
  if (!picture) return null;
  const durationSeconds = picture.duration ?? format?.duration ?? 0;
  return { ...(await startsOf(path, fileName, tracks)), durationSeconds };
}

/**
 * Writes a segment of a film's picture as WebM (VP8), which browsers play that play little else.
 *
 * @param options.fromSeconds by the clock of the film
 * @throws AppError `no-picture` where FFmpeg can't show it, `cancelled`, `took-too-long`, `ffmpeg-missing`
 */
export async function writePictureSegment(
  path: string,
  outputPath: string,
  options: { fileName: string; fromSeconds: number; seconds: number; signal?: AbortSignal | undefined },
): Promise<void> {
  const { fileName, fromSeconds, seconds, signal } = options;
  const from = ['-seek_timestamp', '1', '-ss', String(fromSeconds)];
  const coded = ['-c:v', 'libvpx', '-deadline', 'realtime', '-cpu-used', '8', '-b:v', '800k', '-g', '1000'];
  await runFfmpeg(
    'ffmpeg',
    [
      ...['-nostdin', '-v', 'error', ...INPUT_GUARDS, ...from, '-i', inputUrl(path)],
      ...['-map', '0:V:0', '-t', String(seconds), '-vf', SCALED, ...coded, '-f', 'webm', '-y', inputUrl(outputPath)],
    ],
    fileName,
    {
      signal,
      timeoutMs: TIMEOUT_MS,
      onOutput: () => undefined,
      fail: (name, reason) => new AppError('no-picture', { fileName: name, reason }),
    },
  );
}
