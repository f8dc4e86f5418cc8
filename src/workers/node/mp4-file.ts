import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { findBox, withExtent } from '@/formats/mp4/edit-list';
import type { Extent } from './extent';
import { FileSource, patchFile } from './file-bytes';

/** More than the tables of a day of sound take. */
const MOST_HEAD_BYTES = 64_000_000;

/** Has an MPEG-4 file of ours, whose tables lie ahead of its audio, begin and end where its own sound does. */
export async function stateMp4Extent(path: string, { aheadFrames, frames, behindFrames }: Extent): Promise<void> {
  if (aheadFrames === 0 && behindFrames === 0) return;
  const file = await FileSource.open(path);
  try {
    const head = new Uint8Array(Math.min(file.size, MOST_HEAD_BYTES));
    await file.read(head, 0);
    const box = findBox(head, 'moov');
    const patched = box && withExtent(head.slice(box.offset, box.offset + box.bytes), { aheadFrames, frames });
    if (!box || !patched)
      throw new AppError('encode-failed', { fileName: basename(path), reason: 'it has no edit list' });
    await patchFile(path, box.offset, patched);
  } finally {
    await file.close();
  }
}
