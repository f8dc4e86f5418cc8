/** Sources that lie elsewhere: whether they are still what they were. */
import { createReadStream, statSync } from 'node:fs';
import { and, eq, isNotNull, isNull } from 'drizzle-orm';
import { AppError, isAppError } from '@/core/errors/app-error';
import { statFile } from '@/workers/node/file-bytes';
import { hashStream } from '@/workers/node/stream-hash';
import type { ServerContext } from '../context';
import { programmes, sources } from '../db/schema';
import { currentHash } from '../storage/intact';

type Source = typeof sources.$inferSelect;

/** `touched`: written to since, at the same length; only its hash can tell whether it is another. */
export type ReferenceState = 'whole' | 'touched' | 'changed' | 'missing';

/** What a look at its folder tells of a source that lies elsewhere; null where it is stored here. */
export function referenceState({ reference, sizeBytes }: Source): ReferenceState | null {
  if (!reference) return null;
  const stats = statSync(reference.path, { throwIfNoEntry: false });
  if (!stats?.isFile()) return 'missing';
  if (stats.size !== sizeBytes) return 'changed';
  return stats.mtimeMs === reference.modifiedAtMs ? 'whole' : 'touched';
}

/**
 * Where a source's bytes are. One that lies elsewhere and was written to since is hashed again first: if it is the same,
 * its new time is kept.
 *
 * @throws AppError `file-missing` or `reference-changed`
 */
export async function sourcePath({ db, folder }: ServerContext, source: Source, fileName: string): Promise<string> {
  const { sha256, reference } = source;
  if (!reference) return folder.source(sha256);
  const { path } = reference;
  const { size, mtimeMs } = await statFile(path, path);
  if (size === source.sizeBytes && mtimeMs === reference.modifiedAtMs) return path;
  const isSame = size === source.sizeBytes && (await hashStream(createReadStream(path), fileName)) === sha256;
  if (!isSame) throw new AppError('reference-changed', { fileName, path });
  db.update(sources)
    .set({ reference: { path, modifiedAtMs: mtimeMs } })
    .where(eq(sources.sha256, sha256))
    .run();
  return path;
}

/**
 * Holds the bytes that a source's sound is read from to what they were: those that were taken in, and what they were decoded to.
 *
 * @throws AppError `source-damaged`, `file-missing` or `reference-changed`
 */
export async function checkSource(server: ServerContext, source: Source, fileName: string): Promise<void> {
  const path = await sourcePath(server, source, fileName);
  if ((await currentHash(path, fileName)) !== source.sha256) throw new AppError('source-damaged', { fileName });
}

/** Hashes what was touched of a job's sources that lie elsewhere, so that their state is known. */
export async function settleReferences(server: ServerContext, jobId: string): Promise<void> {
  const elsewhere = server.db
    .select({ source: sources })
    .from(programmes)
    .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .where(and(eq(programmes.jobId, jobId), isNull(programmes.removedAtMs), isNotNull(sources.reference)))
    .all();
  for (const { source } of elsewhere) {
    if (referenceState(source) !== 'touched') continue;
    await sourcePath(server, source, source.sha256).catch((error) => {
      if (!isAppError(error)) throw error;
    });
  }
}
