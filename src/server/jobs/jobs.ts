import { and, asc, eq, isNotNull, isNull } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { Spec } from '@/core/spec/spec';
import type { ServerContext } from '../context';
import { jobs, programmes } from '../db/schema';
import { newId } from '../ids';
import { specNamed, specOrUsual } from '../specs/specs';
import { type ProgrammeView, viewProgrammes } from './programme-view';

export interface JobView {
  id: string;
  name: string;
  /** What its pages judge by; null where nobody has chosen one. */
  specId: string | null;
  programmes: ProgrammeView[];
  /** Taken out, to be put back or not. */
  removed: { id: string; title: string; fileName: string }[];
}

export function createJob(server: ServerContext, name: string): string {
  const id = newId();
  server.db.insert(jobs).values({ id, name, createdAtMs: server.clock.now() }).run();
  return id;
}

export function archiveJob({ db, clock }: ServerContext, jobId: string, isArchived: boolean): void {
  const archivedAtMs = isArchived ? clock.now() : null;
  const { changes } = db
    .update(jobs)
    .set({ archivedAtMs })
    .where(and(eq(jobs.id, jobId), isNull(jobs.deletedAtMs)))
    .run();
  if (changes === 0) throw new AppError('not-found', { what: 'job' });
}

/** Keeps the spec that a job's pages judge by; null for the usual one. Throws `not-found`, or `unknown-spec`. */
export function chooseSpec(server: ServerContext, jobId: string, specId: string | null): void {
  jobOf(server, jobId);
  if (specId !== null) specNamed(server, specId);
  server.db.update(jobs).set({ specId }).where(eq(jobs.id, jobId)).run();
}

/** The spec that an address or a page names, else that of the job, else the usual one. Throws `not-found`. */
export function specInUse(server: Pick<ServerContext, 'db'>, jobId: string, asked: string | null | undefined): Spec {
  return specOrUsual(server, asked ?? undefined, jobOf(server, jobId).specId);
}

/** Throws `not-found`, also of one that was deleted. */
export function jobOf({ db }: Pick<ServerContext, 'db'>, jobId: string): typeof jobs.$inferSelect {
  const job = db
    .select()
    .from(jobs)
    .where(and(eq(jobs.id, jobId), isNull(jobs.deletedAtMs)))
    .get();
  if (!job) throw new AppError('not-found', { what: 'job' });
  return job;
}

/** A job with everything that is in it. Throws `not-found`. */
export function viewJob(server: ServerContext, jobId: string): JobView {
  const { id, name, specId } = jobOf(server, jobId);
  return {
    id,
    name,
    specId,
    programmes: viewProgrammes(server, eq(programmes.jobId, jobId)),
    removed: removedOf(server, jobId),
  };
}

/** What was taken out of a job, to be put back or not. */
export function removedOf({ db }: ServerContext, jobId: string): JobView['removed'] {
  return db
    .select({ id: programmes.id, title: programmes.title, fileName: programmes.fileName })
    .from(programmes)
    .where(and(eq(programmes.jobId, jobId), isNotNull(programmes.removedAtMs)))
    .orderBy(asc(programmes.position), asc(programmes.createdAtMs))
    .all();
}
