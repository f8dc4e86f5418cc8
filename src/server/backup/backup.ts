import { existsSync } from 'node:fs';
import { link, mkdir, readdir, rename, rm, writeFile } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import Database from 'better-sqlite3';
import { AppError } from '@/core/errors/app-error';
import { fileError } from '@/workers/node/file-bytes';
import { hashFile } from '@/workers/node/hash-file';
import { flush } from '@/workers/node/place-file';
import { lockDataFolder } from '../db/client';
import {
  copyVerified,
  DATABASE_NAME,
  filesBelow,
  type Manifest,
  manifestPath,
  newestSnapshot,
  PART,
  type SavedFile,
  type Snapshot,
} from './snapshot';

/** What of a data folder is copied: all that can't be made again. */
const SAVED_PARTS = [
  'sources',
  'analysis',
  'deliveries',
  'records',
  'reviews',
  'intake',
  'covers',
  'recordings',
  'passes',
];

export interface BackupReport {
  path: string;
  files: number;
  bytes: number;
  /** Of those, what was copied now; the others are as in the backup before, and share its space. */
  copiedFiles: number;
  copiedBytes: number;
  /** Sources whose bytes are not those that were taken in. */
  damaged: string[];
}

/**
 * Saves a data folder, also while an app works on it, as one more folder named after the time: the database as it is at one moment, and every
 * file that it knows of then. What has not changed since the last backup is linked to it. Everything is hashed as it is read, and once more as it
 * was written; the folder has its name only when all of it is there.
 *
 * @throws AppError `file-missing` where there is no data folder, `backup-under-way`, `backup-damaged`, or what a disk says
 */
export async function backUp(dataFolder: string, intoFolder: string, now: Date): Promise<BackupReport> {
  const data = resolve(dataFolder);
  const into = resolve(intoFolder);
  if (!existsSync(join(data, DATABASE_NAME)))
    throw new AppError('file-missing', { fileName: join(data, DATABASE_NAME) });
  try {
    await mkdir(into, { recursive: true, mode: 0o700 });
  } catch (error) {
    throw fileError(error, into, 'not-writable');
  }
  // Let go by the system, however this process ends.
  const lock = lockDataFolder(join(into, 'lock.db'));
  if (!lock) throw new AppError('backup-under-way', { path: into });
  try {
    // What another process has left, of which nothing is used.
    for (const name of await readdir(into)) {
      if (name.endsWith(PART)) await rm(join(into, name), { recursive: true, force: true });
    }
    const before = await newestSnapshot(into);
    const finalPath = join(into, now.toISOString().replaceAll(':', '-'));
    if (existsSync(finalPath)) throw new AppError('file-exists', { fileName: finalPath });
    const path = `${finalPath}${PART}`;
    return await save(data, path, finalPath, before, now);
  } catch (error) {
    throw fileError(error, into, 'not-writable');
  } finally {
    lock.close();
  }
}

async function save(
  data: string,
  path: string,
  finalPath: string,
  before: Snapshot | undefined,
  now: Date,
): Promise<BackupReport> {
  await mkdir(path, { mode: 0o700 });
  const saving = new Saving(data, path, before);
  // Most of the time goes here. What is deleted afterwards is there already when the database is looked at.
  await saving.saveFiles();
  await saving.saveDatabase();
  // What the database knows of by now, and did not before.
  await saving.saveFiles();
  const manifest: Manifest = {
    manifest: 'opsimeter-backup',
    version: 1,
    madeAt: now.toISOString(),
    files: [...saving.files.values()],
    damaged: saving.damaged,
  };
  await writeFile(manifestPath(path), JSON.stringify(manifest));
  await flush(manifestPath(path));
  await rename(path, finalPath);
  await flush(dirname(finalPath));
  const { copiedFiles, copiedBytes, damaged } = saving;
  const bytes = manifest.files.reduce((sum, file) => sum + file.bytes, 0);
  return { path: finalPath, files: manifest.files.length, bytes, copiedFiles, copiedBytes, damaged };
}

class Saving {
  readonly files = new Map<string, SavedFile>();
  readonly damaged: string[] = [];
  copiedFiles = 0;
  copiedBytes = 0;
  readonly #before: ReadonlyMap<string, SavedFile>;

  constructor(
    private readonly data: string,
    private readonly path: string,
    private readonly snapshot: Snapshot | undefined,
  ) {
    this.#before = new Map(snapshot?.manifest.files.map((file) => [file.name, file]));
  }

  /** Files that are not saved yet. What comes or goes meanwhile belongs to another moment. */
  async saveFiles(): Promise<void> {
    for (const part of SAVED_PARTS) {
      for (const { name: ownName, ...file } of await filesBelow(join(this.data, part))) {
        const name = `${part}/${ownName}`;
        if (this.files.has(name)) continue;
        await this.#saveFile({ ...file, name }).catch((error) => {
          if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
        });
      }
    }
  }

  /** As SQLite's online backup makes it: of one moment, whoever writes meanwhile. */
  async saveDatabase(): Promise<void> {
    const to = join(this.path, DATABASE_NAME);
    const live = new Database(join(this.data, DATABASE_NAME), { readonly: true });
    try {
      await live.backup(to);
    } finally {
      live.close();
    }
    checkDatabase(to);
    await flush(to);
    const sha256 = await hashFile(to);
    const [{ bytes, modifiedAtMs } = { bytes: 0, modifiedAtMs: 0 }] = (await filesBelow(this.path)).filter(
      ({ name }) => name === DATABASE_NAME,
    );
    this.files.set(DATABASE_NAME, { name: DATABASE_NAME, bytes, modifiedAtMs, sha256 });
    this.copiedFiles++;
    this.copiedBytes += bytes;
  }

  async #saveFile(file: Omit<SavedFile, 'sha256'>): Promise<void> {
    const { name, bytes, modifiedAtMs } = file;
    const to = join(this.path, name);
    const same = this.#before.get(name);
    if (this.snapshot && same && same.bytes === bytes && same.modifiedAtMs === modifiedAtMs) {
      await mkdir(dirname(to), { recursive: true });
      await link(join(this.snapshot.path, name), to);
      this.files.set(name, same);
      return;
    }
    const sha256 = await copyVerified(join(this.data, name), to);
    this.files.set(name, { ...file, sha256 });
    this.copiedFiles++;
    this.copiedBytes += bytes;
    // A source is called by its hash.
    if (name.startsWith('sources/') && name !== `sources/${sha256}`) this.damaged.push(name);
  }
}

/** Throws `backup-damaged`. */
export function checkDatabase(path: string): void {
  const db = new Database(path);
  try {
    // Of one file: no log stands beside it.
    db.pragma('journal_mode = DELETE');
    const [found] = db.pragma('integrity_check(1)') as { integrity_check: string }[];
    if (found?.integrity_check === 'ok') return;
    throw new AppError('backup-damaged', { path, reason: found?.integrity_check ?? '' });
  } finally {
    db.close();
  }
}
