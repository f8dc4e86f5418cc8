import { link, open, rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import { fileError } from './file-bytes';

/**
 * Gives a finished file its final name, and only if that name is free: a link fails where a rename would replace.
 * The temporary name is gone afterwards, and the folder's entry is flushed.
 */
export async function placeFile(temporaryPath: string, finalPath: string, fileName: string): Promise<void> {
  try {
    await link(temporaryPath, finalPath);
    await rm(temporaryPath);
    await flush(dirname(finalPath));
  } catch (error) {
    await rm(temporaryPath, { force: true });
    throw fileError(error, fileName, 'not-writable');
  }
}

/** Makes what was written to a file, or a new name in a folder, survive a power cut. */
export async function flush(path: string): Promise<void> {
  const handle = await open(path, 'r');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}
