import { id3Bytes, paddingPatch } from '@/formats/mp3/info-tag';
import type { Extent } from './extent';
import { FileSource, patchFile } from './file-bytes';

const HEAD_BYTES = 2048;

/** Has an MP3 that was just encoded begin and end with its sound: also where its encoder has counted one frame too many. */
export async function stateMp3Extent(path: string, { aheadFrames, frames }: Extent): Promise<void> {
  const file = await FileSource.open(path);
  const patch = await (async () => {
    try {
      const head = new Uint8Array(HEAD_BYTES);
      await file.read(head, 0);
      const offset = id3Bytes(head);
      const filled = await file.read(head, offset);
      return paddingPatch(head.subarray(0, filled), offset, frames, aheadFrames);
    } finally {
      await file.close();
    }
  })();
  if (patch) await patchFile(path, patch.offset, patch.bytes);
}
