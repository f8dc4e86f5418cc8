import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { and, eq, lt, notExists } from 'drizzle-orm';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import type { ServerContext } from '../context';
import { batches, deliveries, intakeItems, jobs, programmes, sourceReports, sources } from '../db/schema';

/** What lies in one part of the data folder. */
export const STORE_KINDS = [
  'sources',
  'decoded',
  'prepared',
  'analysis',
  'deliveries',
  'records',
  'reviews',
  'intake',
  'uploads',
  'recordings',
  'passes',
  'covers',
  'database',
] as const;
export type StoreKind = (typeof STORE_KINDS)[number];

export interface StoredFile {
  path: string;
  /** From the folder of its kind on, with `/` between. */
  name: string;
  bytes: number;
  modifiedAtMs: number;
}

type Context = Pick<ServerContext, 'db' | 'folder' | 'clock'>;

const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;
/** What is younger may be on its way: a file is there before its row is. */
const ORPHAN_MS = DAY_MS;
/** What was used so lately may be used again at once. */
const AT_REST_MS = HOUR_MS / 4;
/** What a simulated intake was sent is its own after that. */
const INTAKE_MS = 7 * DAY_MS;

interface Store {
  /** What is there can be made again from sources: all of it can go, and of much of it the oldest does. */
  isRemakable?: true;
  /** What nobody needs any more, of the files that are there. */
  unneeded?(server: Context, files: readonly StoredFile[]): StoredFile[];
}

/** Each part of the data folder: what of it can go. Of those that say nothing, nothing ever goes unasked. */
export const STORES: Readonly<Record<StoreKind, Store>> = {
  // What no row speaks of: a process has ended between storing and recording.
  sources: { unneeded: ofNoSource },
  decoded: { isRemakable: true, unneeded: ofNoSource },
  prepared: { isRemakable: true, unneeded: ofNoSource },
  analysis: {
    unneeded: (server, files) => {
      const gone = ofNoSource(server, files);
      // Names say which engine has made them; no other reads them.
      const older = files.filter(({ name }) => !name.slice(SHA_LENGTH).startsWith(`.${ENGINE_VERSION}.`));
      return [...new Set([...gone, ...older.filter((file) => isOldEnough(server, file))])];
    },
  },
  deliveries: { unneeded: ofNoJob },
  records: { unneeded: ofNoJob },
  reviews: { unneeded: ofNoBatch },
  intake: { unneeded: ofNoItem },
  uploads: {},
  recordings: {},
  passes: {},
  covers: {},
  database: {},
};

const SHA_LENGTH = 64;
const shaOf = ({ name }: StoredFile) => name.slice(0, SHA_LENGTH);

function isOldEnough({ clock }: Context, { modifiedAtMs }: StoredFile): boolean {
  return clock.now() - modifiedAtMs > ORPHAN_MS;
}

/** Whether something can go without being missed at once: it was neither written nor used a moment ago. */
export function isAtRest({ clock }: Pick<ServerContext, 'clock'>, { modifiedAtMs }: StoredFile): boolean {
  return clock.now() - modifiedAtMs > AT_REST_MS;
}

function ofNoSource(server: Context, files: readonly StoredFile[]): StoredFile[] {
  const known = new Set(
    server.db
      .select({ sha256: sources.sha256 })
      .from(sources)
      .all()
      .map(({ sha256 }) => sha256),
  );
  return files.filter((file) => !known.has(shaOf(file)) && isOldEnough(server, file));
}

function ofNoJob(server: Context, files: readonly StoredFile[]): StoredFile[] {
  const known = new Set(
    server.db
      .select({ id: jobs.id })
      .from(jobs)
      .all()
      .map(({ id }) => id),
  );
  return files.filter((file) => !known.has(file.name.split('/', 1)[0] as string) && isOldEnough(server, file));
}

/** Review copies that no batch names: what was written of one whose end could not be recorded. */
function ofNoBatch(server: Context, files: readonly StoredFile[]): StoredFile[] {
  const named = new Set(
    server.db
      .select({ jobId: batches.jobId, items: batches.items })
      .from(batches)
      .all()
      .flatMap(({ jobId, items }) => items.flatMap(({ file }) => (file ? [`${jobId}/${file.fileName}`] : []))),
  );
  return files.filter((file) => !named.has(file.name) && isOldEnough(server, file));
}

/** What a simulated intake was sent and answered long ago, and what was never followed by the word that it is whole. */
function ofNoItem({ db, clock }: Context, files: readonly StoredFile[]): StoredFile[] {
  const before = clock.now() - INTAKE_MS;
  const { intakeId, key, answeredAtMs } = intakeItems;
  const items = db.select({ intakeId, key, answeredAtMs }).from(intakeItems).all();
  const answeredMs = new Map(items.map((item) => [`${item.intakeId}/${item.key}`, item.answeredAtMs]));
  return files.filter(({ name, modifiedAtMs }) => {
    const item = name.split('/').slice(0, 2).join('/');
    const lastMs = answeredMs.has(item) ? answeredMs.get(item) : modifiedAtMs;
    return lastMs != null && lastMs < before;
  });
}

/** Every file of one part of the data folder. What comes or goes meanwhile may be missing. */
export async function filesOf({ folder }: Pick<ServerContext, 'folder'>, kind: StoreKind): Promise<StoredFile[]> {
  if (kind === 'database') return databaseFiles(folder.root);
  const root = folder.within(kind);
  const entries = await readdir(root, { recursive: true, withFileTypes: true }).catch(() => []);
  const files = await statAll(
    root,
    entries.filter((entry) => entry.isFile()).map(({ parentPath, name }) => join(parentPath, name)),
  );
  return kind === 'prepared' ? usedTogether(files) : files;
}

/** What is prepared of one source is used together, and each of its uses is noted on one of its files. */
function usedTogether(files: readonly StoredFile[]): StoredFile[] {
  const usedAtMs = new Map<string, number>();
  for (const file of files) {
    usedAtMs.set(shaOf(file), Math.max(usedAtMs.get(shaOf(file)) ?? 0, file.modifiedAtMs));
  }
  return files.map((file) => ({ ...file, modifiedAtMs: usedAtMs.get(shaOf(file)) ?? file.modifiedAtMs }));
}

async function databaseFiles(root: string): Promise<StoredFile[]> {
  const names = (await readdir(root)).filter((name) => name.startsWith('opsimeter.db'));
  return statAll(
    root,
    names.map((name) => join(root, name)),
  );
}

async function statAll(root: string, paths: readonly string[]): Promise<StoredFile[]> {
  const files: StoredFile[] = [];
  for (const path of paths) {
    const stats = await stat(path).catch(() => undefined);
    if (!stats) continue;
    const name = path.slice(root.length + 1).replaceAll('\\', '/');
    files.push({ path, name, bytes: stats.size, modifiedAtMs: stats.mtimeMs });
  }
  return files;
}

/**
 * Forgets sources that no programme is made of and no delivery was written from, with all that was read of them; their files are then without
 * a row. Those of a job that was deleted go this way, a week later.
 */
export function forgetSources({ db, clock }: Context): number {
  const isOld = lt(sources.createdAtMs, clock.now() - ORPHAN_MS);
  const isProgramme = db
    .select({ id: programmes.id })
    .from(programmes)
    .where(eq(programmes.sourceSha256, sources.sha256));
  const isDelivered = db
    .select({ id: deliveries.id })
    .from(deliveries)
    .where(eq(deliveries.sourceSha256, sources.sha256));
  const unneeded = db
    .select({ sha256: sources.sha256 })
    .from(sources)
    .where(and(isOld, notExists(isProgramme), notExists(isDelivered)))
    .all();
  db.transaction(
    (tx) => {
      for (const { sha256 } of unneeded) {
        tx.delete(sourceReports).where(eq(sourceReports.sha256, sha256)).run();
        tx.delete(sources).where(eq(sources.sha256, sha256)).run();
      }
    },
    { behavior: 'immediate' },
  );
  return unneeded.length;
}

export async function removeFiles(files: readonly StoredFile[]): Promise<void> {
  for (const { path } of files) await rm(path, { force: true });
}
