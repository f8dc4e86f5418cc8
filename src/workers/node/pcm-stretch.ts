import type { PcmReader } from '@/formats/pcm-reader';

/** Some frames of a file, as they stand there; what lies ahead of its first frame or behind its last is 0. */
export async function readStretch(reader: PcmReader, startFrame: number, frames: number): Promise<Float32Array[]> {
  const { channels } = reader.header.format;
  const stretch = Array.from({ length: channels }, () => new Float32Array(frames));
  const ahead = Math.max(0, -startFrame);
  reader.seek(startFrame + ahead);
  for (let done = ahead; done < frames; ) {
    const piece = await reader.next();
    if (!piece) break;
    const count = Math.min(piece.frames, frames - done);
    piece.channels.forEach((samples, channel) => {
      stretch[channel]?.set(samples.subarray(0, count), done);
    });
    done += count;
  }
  return stretch;
}
