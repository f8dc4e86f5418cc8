import { readSync } from 'node:fs';
import { readPcmHeader } from '@/formats/open-pcm';
import type { PcmHeader } from '@/formats/pcm-header';
import type { FrameReader } from '@/kernels/meter-kernel';
import { FileSource, fileError } from './file-bytes';
import { help, type SegmentWorkers } from './segment-workers';

/** Measures segments of a file for the thread that leads; returns when none is left. */
export async function helpMeasuring(path: string, fileName: string, { next, ports }: SegmentWorkers): Promise<void> {
  const file = await FileSource.open(path, fileName);
  try {
    const header = await readPcmHeader(file, fileName);
    for (const port of ports) await help(readerOf(file, header, fileName), header, next, port);
  } finally {
    for (const port of ports) port.close();
    await file.close();
  }
}

/** Reads straight into a kernel's memory; in a thread of its own, nothing is gained by waiting elsewhere. */
export function readerOf({ handle }: FileSource, { dataOffset, frameBytes }: PcmHeader, fileName: string): FrameReader {
  return (target, startFrame, frames) => {
    try {
      const wanted = frames * frameBytes;
      const offset = dataOffset + startFrame * frameBytes;
      let filled = 0;
      while (filled < wanted) {
        const read = readSync(handle.fd, target, filled, wanted - filled, offset + filled);
        if (read === 0) break;
        filled += read;
      }
      return Math.floor(filled / frameBytes);
    } catch (error) {
      throw fileError(error, fileName, 'file-unreadable');
    }
  };
}
