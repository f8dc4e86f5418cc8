import { rename, rm } from 'node:fs/promises';
import { basename } from 'node:path';
import { CUE_SHEET, extendedHead, insertedIntoPadding, metadataBytes } from '@/formats/flac/blocks';
import { cueSheetBlock, type FlacCueSheet } from '@/formats/flac/cue-sheet-block';
import { FileSink, FileSource, patchFile } from './file-bytes';

/** More than a head has with the largest picture that is taken. */
const MOST_HEAD_BYTES = 32_000_000;
const PIECE_BYTES = 1 << 20;

/** Puts a cue sheet into a FLAC, in place of padding where there is enough; the coded audio stays as it is. */
export async function insertCueSheet(path: string, cueSheet: FlacCueSheet): Promise<void> {
  const body = cueSheetBlock(cueSheet);
  const head = await readHead(path);
  const patched = insertedIntoPadding(head, CUE_SHEET, body);
  if (patched) return patchFile(path, 0, patched);
  const longerPath = `${path}.longer.part`;
  const file = await FileSource.open(path);
  const sink = await FileSink.create(longerPath, basename(path));
  try {
    await sink.write(extendedHead(head, CUE_SHEET, body));
    const piece = new Uint8Array(PIECE_BYTES);
    for (let at = head.length; at < file.size; at += piece.length) {
      await sink.write(piece.subarray(0, await file.read(piece, at)));
    }
    await sink.finish();
  } catch (error) {
    await sink.abandon().catch(() => undefined);
    await rm(longerPath, { force: true });
    throw error;
  } finally {
    await file.close();
  }
  await rename(longerPath, path);
}

async function readHead(path: string): Promise<Uint8Array> {
  const file = await FileSource.open(path);
  try {
    const head = new Uint8Array(Math.min(file.size, MOST_HEAD_BYTES));
    await file.read(head, 0);
    return head.slice(0, metadataBytes(head));
  } finally {
    await file.close();
  }
}
