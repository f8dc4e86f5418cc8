import { truncate } from 'node:fs/promises';
import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { asLastPage, OPUS_HZ, pagesFrom, preSkip, withPreSkip } from '@/formats/ogg/opus-extent';
import type { Extent } from './extent';
import { FileSource, patchFile } from './file-bytes';

/** A page holds 65,307 bytes at most; the end of a stream is within a few of them. */
const READ_BYTES = 1 << 20;

/** Has an Opus file begin and end where its own sound does: the samples ahead are skipped, and it ends with the page of its last. */
export async function stateOpusExtent(
  path: string,
  { aheadFrames, frames, behindFrames, sampleRateHz }: Extent,
): Promise<void> {
  if (aheadFrames === 0 && behindFrames === 0) return;
  const inOpus = (count: number) => Math.round((count * OPUS_HZ) / sampleRateHz);
  const file = await FileSource.open(path);
  try {
    const head = await piece(file, 0);
    const [first] = pagesFrom(head, 0);
    if (!first) throw new AppError('encode-failed', { fileName: basename(path), reason: 'its first page is damaged' });
    const firstPage = head.slice(0, first.bytes);
    const skipped = preSkip(firstPage) + inOpus(aheadFrames);
    const end = BigInt(skipped + inOpus(frames));
    const from = Math.max(0, file.size - READ_BYTES);
    const tail = await piece(file, from);
    const start = pageStart(tail);
    const last = pagesFrom(tail, start).find(({ granule }) => granule >= end);
    if (!last) throw new AppError('encode-failed', { fileName: basename(path), reason: 'it ends too early' });
    await patchFile(path, 0, withPreSkip(firstPage, skipped));
    const lastPage = asLastPage(tail.slice(last.offset, last.offset + last.bytes), end);
    await patchFile(path, from + last.offset, lastPage);
    await truncate(path, from + last.offset + lastPage.length);
  } finally {
    await file.close();
  }
}

async function piece(file: FileSource, from: number): Promise<Uint8Array> {
  const bytes = new Uint8Array(Math.min(READ_BYTES, file.size - from));
  await file.read(bytes, from);
  return bytes;
}

/** Where the first page begins from which pages follow each other to the end. */
function pageStart(tail: Uint8Array): number {
  for (let at = 0; at < tail.length; at++) {
    const pages = tail[at] === 0x4f ? pagesFrom(tail, at) : [];
    const last = pages.at(-1);
    if (last && last.offset + last.bytes === tail.length) return at;
  }
  return tail.length;
}
