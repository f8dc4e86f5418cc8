import { existsSync } from 'node:fs';
import { mkdir, readdir, rename, rm, utimes } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { fileError } from '@/workers/node/file-bytes';
import { flush } from '@/workers/node/place-file';
import { newId } from '../ids';
import { checkDatabase } from './backup';
import { copyVerified, DATABASE_NAME, manifestPath, newestSnapshot, PART, snapshotAt } from './snapshot';

export interface RestoreReport {
  /** The backup that it was restored from, and when that was made. */
  from: string;
  madeAt: string;
  files: number;
  bytes: number;
}

/**
 * Makes a data folder from a backup: the newest one of a folder, or the one that is named. Every file is held against the hash that it was saved
 * with; the folder is there only when all of it is.
 *
 * @throws AppError `file-missing` where there is no backup, `file-exists` where there is a data folder, `backup-damaged`, or what a disk says
 */
export async function restore(backupFolder: string, dataFolder: string): Promise<RestoreReport> {
  const data = resolve(dataFolder);
  const named = resolve(backupFolder);
  const snapshot = existsSync(manifestPath(named)) ? await snapshotAt(named) : await newestSnapshot(named);
  if (!snapshot) throw new AppError('file-missing', { fileName: join(named, '(a backup)') });
  if (existsSync(data) && (await readdir(data)).length > 0) throw new AppError('file-exists', { fileName: data });
  const beginning = `.${basename(data)}.restoring-`;
  const path = join(dirname(data), `${beginning}${newId()}${PART}`);
  try {
    await mkdir(dirname(data), { recursive: true });
    // What another process has left half-done.
    for (const name of await readdir(dirname(data))) {
      if (name.startsWith(beginning)) await rm(join(dirname(data), name), { recursive: true, force: true });
    }
    await mkdir(path, { mode: 0o700 });
    let bytes = 0;
    for (const file of snapshot.manifest.files) {
      const to = join(path, file.name);
      const sha256 = await copyVerified(join(snapshot.path, file.name), to).catch((error) => {
        if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
        throw new AppError('backup-damaged', { path: snapshot.path, reason: `${file.name} is missing` });
      });
      if (sha256 !== file.sha256) {
        throw new AppError('backup-damaged', { path: snapshot.path, reason: `${file.name} has other bytes` });
      }
      await utimes(to, file.modifiedAtMs / 1000, file.modifiedAtMs / 1000);
      bytes += file.bytes;
    }
    checkDatabase(join(path, DATABASE_NAME));
    await rm(data, { recursive: true, force: true });
    await rename(path, data);
    await flush(dirname(data));
    const { madeAt, files } = snapshot.manifest;
    return { from: snapshot.path, madeAt, files: files.length, bytes };
  } catch (error) {
    await rm(path, { recursive: true, force: true });
    throw fileError(error, data, 'not-writable');
  }
}
