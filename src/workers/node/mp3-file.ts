import { id3Bytes, paddingPatch } from '@/formats/mp3/info-tag';
import { FileSource, patchFile } from './file-bytes';

const HEAD_BYTES = 2048;

/** Has an MP3 that was just encoded end with the last frame of its sound, where its encoder has counted one too many. */
export async function stateMp3Length(path: string, frames: number): Promise<void> {
  const file = await FileSource.open(path);
  const patch = await (async () => {
    try {
      const head = new Uint8Array(HEAD_BYTES);
      await file.read(head, 0);
      const offset = id3Bytes(head);
      const filled = await file.read(head, offset);
      return paddingPatch(head.subarray(0, filled), offset, frames);
    } finally {
      await file.close();
    }
  })();
  if (patch) await patchFile(path, patch.offset, patch.bytes);
}
