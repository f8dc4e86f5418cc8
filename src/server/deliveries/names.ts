import { and, count, eq, isNull, lt } from 'drizzle-orm';
import { formatFields, type NameFields } from '@/core/delivery/file-name';
import type { ResolvedFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { jobs, programmes } from '../db/schema';
import type { DeliveryRow } from './predict';

/** What the name of a row's file can tell of it. Throws `not-found`. */
export function nameFieldsOf(
  { db }: Pick<ServerContext, 'db'>,
  row: Pick<DeliveryRow, 'programmeId' | 'jobId' | 'specId'>,
  format: ResolvedFormat,
  version: number,
): NameFields {
  const programme = db.select().from(programmes).where(eq(programmes.id, row.programmeId)).get();
  const job = db.select().from(jobs).where(eq(jobs.id, row.jobId)).get();
  if (!programme || !job) throw new AppError('not-found', { what: 'programme' });
  const before = db
    .select({ programmes: count() })
    .from(programmes)
    .where(
      and(eq(programmes.jobId, job.id), isNull(programmes.removedAtMs), lt(programmes.position, programme.position)),
    )
    .get();
  return {
    title: programme.title,
    spec: row.specId,
    rate: format.sampleRateHz,
    version,
    job: job.name,
    ...formatFields(format),
    track: (before?.programmes ?? 0) + 1,
  };
}
