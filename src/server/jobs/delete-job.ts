import { rm } from 'node:fs/promises';
import { and, eq, inArray, isNotNull, isNull, lt, or } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import {
  assemblies,
  batches,
  deliveries,
  deliveryRows,
  jobs,
  lineEvents,
  lineSeconds,
  lines,
  lineUpMembers,
  lineUps,
  markers,
  nullTests,
  outboardPasses,
  programmes,
  recordings,
  tasks,
  transferLog,
  transfers,
  treatmentEdits,
  treatments,
} from '../db/schema';
import { log } from '../log';

/** A job that was deleted can be restored for so long. */
const RESTORABLE_MS = 7 * 24 * 3600 * 1000;

export interface DeletedJob {
  id: string;
  name: string;
  deletedAtMs: number;
  /** When it is gone for good. */
  goneAtMs: number;
}

/**
 * Deletes a job: it is shown nowhere, what waits or runs of it is cancelled, and after a week everything of it goes, with sources that no
 * other job has. Throws `not-found`, or `job-in-use` where a line records into it.
 */
export function deleteJob({ db, clock, runner }: ServerContext, jobId: string): void {
  const [job] = db.select().from(jobs).where(eq(jobs.id, jobId)).all();
  if (!job || job.deletedAtMs !== null) throw new AppError('not-found', { what: 'job' });
  const [line] = db
    .select()
    .from(lines)
    .where(and(eq(lines.jobId, jobId), isNull(lines.removedAtMs)))
    .all();
  if (line) throw new AppError('job-in-use', { name: job.name, line: line.name });
  db.update(jobs).set({ deletedAtMs: clock.now() }).where(eq(jobs.id, jobId)).run();
  const ids = (rows: { id: string }[]) => rows.map(({ id }) => id);
  const live = and(
    inArray(tasks.state, ['queued', 'running']),
    or(
      inArray(tasks.subjectId, db.select({ id: deliveries.id }).from(deliveries).where(eq(deliveries.jobId, jobId))),
      inArray(tasks.subjectId, db.select({ id: assemblies.id }).from(assemblies).where(eq(assemblies.jobId, jobId))),
      inArray(tasks.subjectId, db.select({ id: batches.id }).from(batches).where(eq(batches.jobId, jobId))),
      inArray(tasks.subjectId, db.select({ id: lineUps.id }).from(lineUps).where(eq(lineUps.jobId, jobId))),
      eq(tasks.subjectId, jobId),
    ),
  );
  runner.cancelEach(ids(db.select({ id: tasks.id }).from(tasks).where(live).all()));
}

/** Throws `not-found`, also of one that is gone for good. */
export function restoreJob({ db }: ServerContext, jobId: string): void {
  const { changes } = db
    .update(jobs)
    .set({ deletedAtMs: null })
    .where(and(eq(jobs.id, jobId), isNotNull(jobs.deletedAtMs)))
    .run();
  if (changes === 0) throw new AppError('not-found', { what: 'job' });
}

/** Those that can be restored, the last one deleted first. */
export function listDeletedJobs({ db }: Pick<ServerContext, 'db'>): DeletedJob[] {
  return db
    .select({ id: jobs.id, name: jobs.name, deletedAtMs: jobs.deletedAtMs })
    .from(jobs)
    .where(isNotNull(jobs.deletedAtMs))
    .all()
    .map(({ id, name, deletedAtMs }) => ({
      id,
      name,
      deletedAtMs: deletedAtMs as number,
      goneAtMs: (deletedAtMs as number) + RESTORABLE_MS,
    }))
    .sort((a, b) => b.deletedAtMs - a.deletedAtMs);
}

/** Jobs that were deleted a week ago go for good: their rows at once, then their files. */
export async function purgeDeleted(server: ServerContext): Promise<void> {
  const { db, folder, clock } = server;
  const due = db
    .select({ id: jobs.id })
    .from(jobs)
    .where(lt(jobs.deletedAtMs, clock.now() - RESTORABLE_MS))
    .all();
  for (const { id } of due) {
    forgetJob(server, id);
    log.info({ job: id }, 'a job that was deleted is gone for good');
    for (const path of [folder.deliveriesOf(id), folder.recordsOf(id), folder.review(id, '')]) {
      await rm(path, { recursive: true, force: true });
    }
  }
}

/** Every row of a job, what points at others first. */
function forgetJob({ db }: ServerContext, jobId: string): void {
  db.transaction(
    (tx) => {
      const ofJob = tx.select({ id: programmes.id }).from(programmes).where(eq(programmes.jobId, jobId));
      const delivered = tx.select({ id: deliveries.id }).from(deliveries).where(eq(deliveries.jobId, jobId));
      const sent = tx.select({ id: transfers.id }).from(transfers).where(inArray(transfers.deliveryId, delivered));
      const assembled = tx.select({ id: assemblies.id }).from(assemblies).where(eq(assemblies.jobId, jobId));
      const batched = tx.select({ id: batches.id }).from(batches).where(eq(batches.jobId, jobId));
      const linedUp = tx.select({ id: lineUps.id }).from(lineUps).where(eq(lineUps.jobId, jobId));
      const passed = tx
        .select({ id: outboardPasses.id })
        .from(outboardPasses)
        .where(inArray(outboardPasses.programmeId, ofJob));
      const heard = tx.select({ id: lines.id }).from(lines).where(eq(lines.jobId, jobId));
      for (const subjects of [delivered, sent, assembled, batched, linedUp, passed]) {
        tx.delete(tasks).where(inArray(tasks.subjectId, subjects)).run();
      }
      tx.delete(tasks).where(eq(tasks.subjectId, jobId)).run();
      tx.delete(transferLog).where(inArray(transferLog.transferId, sent)).run();
      tx.delete(transfers).where(inArray(transfers.deliveryId, delivered)).run();
      tx.delete(deliveries).where(eq(deliveries.jobId, jobId)).run();
      tx.delete(deliveryRows).where(eq(deliveryRows.jobId, jobId)).run();
      tx.delete(assemblies).where(eq(assemblies.jobId, jobId)).run();
      tx.delete(nullTests).where(inArray(nullTests.lineUpId, linedUp)).run();
      tx.delete(lineUpMembers).where(inArray(lineUpMembers.lineUpId, linedUp)).run();
      tx.delete(lineUps).where(eq(lineUps.jobId, jobId)).run();
      tx.delete(batches).where(eq(batches.jobId, jobId)).run();
      tx.delete(outboardPasses).where(inArray(outboardPasses.programmeId, ofJob)).run();
      tx.delete(recordings)
        .where(
          or(eq(recordings.jobId, jobId), inArray(recordings.programmeId, ofJob), inArray(recordings.lineId, heard)),
        )
        .run();
      tx.delete(lineSeconds).where(inArray(lineSeconds.lineId, heard)).run();
      tx.delete(lineEvents).where(inArray(lineEvents.lineId, heard)).run();
      tx.delete(lines).where(eq(lines.jobId, jobId)).run();
      tx.delete(markers).where(inArray(markers.programmeId, ofJob)).run();
      tx.delete(treatmentEdits).where(inArray(treatmentEdits.programmeId, ofJob)).run();
      tx.delete(treatments).where(inArray(treatments.programmeId, ofJob)).run();
      tx.delete(programmes).where(eq(programmes.jobId, jobId)).run();
      tx.delete(jobs).where(eq(jobs.id, jobId)).run();
    },
    { behavior: 'immediate' },
  );
}
