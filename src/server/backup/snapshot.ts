import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, readdir, readFile, stat } from 'node:fs/promises';
import { dirname, join, relative, sep } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import * as z from 'zod';
import { AppError } from '@/core/errors/app-error';
import { hashFile } from '@/workers/node/hash-file';
import { flush } from '@/workers/node/place-file';

export const DATABASE_NAME = 'opsimeter.db';
const MANIFEST_NAME = 'manifest.json';
/** What is not whole yet ends so. */
export const PART = '.part';

const fileSchema = z.object({
  /** From the data folder on, with `/` between. */
  name: z
    .string()
    .min(1)
    .refine((name) => !name.split('/').some((part) => ['', '.', '..'].includes(part)) && !/[\\\0]/.test(name)),
  bytes: z.number().nonnegative(),
  /** Of the file that was copied: one that has not changed since is the same. */
  modifiedAtMs: z.number(),
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
});
export type SavedFile = z.infer<typeof fileSchema>;

const manifestSchema = z.object({
  manifest: z.literal('opsimeter-backup'),
  version: z.literal(1),
  madeAt: z.iso.datetime(),
  files: z.array(fileSchema),
  /** Sources whose bytes were not those that were taken in, already in the data folder. */
  damaged: z.array(z.string()),
});
export type Manifest = z.infer<typeof manifestSchema>;

/** One backup, by the folder that it lies in. */
export interface Snapshot {
  path: string;
  manifest: Manifest;
}

/** The newest whole backup in a folder; undefined where there is none. Throws `backup-damaged` where what it says of itself can't be read. */
export async function newestSnapshot(folder: string): Promise<Snapshot | undefined> {
  const names = await readdir(folder).catch(() => []);
  const newest = names
    .filter((name) => /^\d{4}-\d\d-\d\dT/.test(name) && !name.endsWith(PART))
    .sort()
    .at(-1);
  return newest === undefined ? undefined : snapshotAt(join(folder, newest));
}

/** Throws `backup-damaged`. */
export async function snapshotAt(path: string): Promise<Snapshot> {
  try {
    const manifest = manifestSchema.parse(JSON.parse(await readFile(join(path, MANIFEST_NAME), 'utf8')));
    return { path, manifest };
  } catch (error) {
    throw new AppError('backup-damaged', { path, reason: 'what it says of itself cannot be read' }, { cause: error });
  }
}

export const manifestPath = (path: string) => join(path, MANIFEST_NAME);

/** Copies a file to where nothing is, flushes it, and reads it back. Throws where what lies there is not what was read. */
export async function copyVerified(from: string, to: string): Promise<string> {
  await mkdir(dirname(to), { recursive: true });
  const read = createHash('sha256');
  const hashing = new Transform({
    transform(bytes: Uint8Array, _, done) {
      read.update(bytes);
      done(null, bytes);
    },
  });
  await pipeline(createReadStream(from, { highWaterMark: 1 << 20 }), hashing, createWriteStream(to, { flags: 'wx' }));
  await flush(to);
  const sha256 = read.digest('hex');
  if ((await hashFile(to)) !== sha256) throw new AppError('not-as-written', { fileName: to });
  return sha256;
}

/** Every file below a folder, by its name from there on, with `/` between. */
export async function filesBelow(root: string): Promise<Omit<SavedFile, 'sha256'>[]> {
  const entries = await readdir(root, { recursive: true, withFileTypes: true }).catch(() => []);
  const found: Omit<SavedFile, 'sha256'>[] = [];
  for (const entry of entries) {
    if (!entry.isFile() || entry.name.endsWith(PART)) continue;
    const path = join(entry.parentPath, entry.name);
    const stats = await stat(path).catch(() => undefined);
    if (!stats) continue;
    const name = relative(root, path).split(sep).join('/');
    found.push({ name, bytes: stats.size, modifiedAtMs: stats.mtimeMs });
  }
  return found;
}
