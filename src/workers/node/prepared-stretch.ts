import { AppError } from '@/core/errors/app-error';
import type { PreparedReader } from './prepared-reader';

/**
 * Some frames of a programme as it is prepared, each channel in an array of its own.
 *
 * @throws `source-changed` where the file ends ahead of them
 */
export async function readPrepared(
  reader: PreparedReader,
  startFrame: number,
  frames: number,
  fileName: string,
): Promise<Float32Array[]> {
  const stretch = Array.from({ length: reader.format.channels }, () => new Float32Array(frames));
  reader.seek(startFrame);
  for (let done = 0; done < frames; ) {
    const piece = await reader.next();
    if (!piece) throw new AppError('source-changed', { fileName });
    const count = Math.min(piece.frames, frames - done);
    piece.channels.forEach((samples, channel) => {
      stretch[channel]?.set(samples.subarray(0, count), done);
    });
    done += count;
  }
  return stretch;
}
