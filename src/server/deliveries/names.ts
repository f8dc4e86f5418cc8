import { and, asc, count, eq, isNull, lt } from 'drizzle-orm';
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
  const named = { title: programme.title, job: job.name, track: (before?.programmes ?? 0) + 1 };
  return nameFields(named, row.specId, format, version);
}

/** The same, where it is known what the programme is called, and which of its job it is. */
export function nameFields(
  named: { title: string; job: string; track: number },
  specId: string,
  format: ResolvedFormat,
  version: number,
): NameFields {
  return { ...named, spec: specId, rate: format.sampleRateHz, version, ...formatFields(format) };
}

/** Which of its job each programme is, from 1 on. */
export function trackNumbers({ db }: Pick<ServerContext, 'db'>, jobId: string): Map<string, number> {
  const there = db
    .select({ id: programmes.id, position: programmes.position })
    .from(programmes)
    .where(and(eq(programmes.jobId, jobId), isNull(programmes.removedAtMs)))
    .orderBy(asc(programmes.position))
    .all();
  const firstAt = new Map<number, number>();
  there.forEach(({ position }, i) => {
    if (!firstAt.has(position)) firstAt.set(position, i + 1);
  });
  return new Map(there.map(({ id, position }) => [id, firstAt.get(position) ?? 1]));
}
