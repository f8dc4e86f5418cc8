import { eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { programmes, sources } from '../db/schema';
import { sourcePath } from './reference';

/** A programme with its source, and where the file is. Throws `not-found`. */
export async function programmeFile(server: ServerContext, programmeId: string) {
  const [row] = server.db
    .select({ programme: programmes, source: sources })
    .from(programmes)
    .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .where(eq(programmes.id, programmeId))
    .all();
  if (!row) throw new AppError('not-found', { what: 'programme' });
  return { ...row, path: await sourcePath(server, row.source, row.programme.fileName) };
}
