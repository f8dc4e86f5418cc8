import { rm } from 'node:fs/promises';
import { and, eq, inArray, isNull, notExists, sql } from 'drizzle-orm';
import { advanceAssembly } from '../assemblies/assembly-record';
import type { ServerContext } from '../context';
import {
  assemblies,
  deliveries,
  intakeItems,
  outboardPasses,
  type Task,
  type TaskKind,
  tasks,
  transfers,
} from '../db/schema';
import { removeFiles } from '../deliveries/decide';
import { advanceDelivery } from '../deliveries/delivery-record';

type Context = Pick<ServerContext, 'db' | 'folder' | 'queue'>;

/**
 * Brings what rows say and what tasks there are together, at a start: work that a row waits for has a task, whatever process
 * has ended between the two, and files that were thrown away are gone.
 */
export async function reconcile(server: Context): Promise<void> {
  const { db, queue } = server;
  const open = db.select({ id: deliveries.id }).from(deliveries).where(eq(deliveries.state, 'open')).all();
  for (const { id } of open) queue.enqueue('render', id);
  const unwritten = db.select({ id: assemblies.id }).from(assemblies).where(eq(assemblies.state, 'open')).all();
  for (const { id } of unwritten) queue.enqueue('assemble', id);
  // One that was given up has a task that says so, and waits for a person.
  const sent = db
    .select({ id: transfers.id })
    .from(transfers)
    .where(and(inArray(transfers.state, ['open', 'checking']), hasNoTask(server, 'send', sql`${transfers.id}`)))
    .all();
  for (const { id } of sent) queue.enqueue('send', id);
  const arrived = db
    .select({ id: intakeItems.id })
    .from(intakeItems)
    .where(and(eq(intakeItems.state, 'received'), hasNoTask(server, 'check', sql`${intakeItems.id}`)))
    .all();
  for (const { id } of arrived) queue.enqueue('check', id);
  const recorded = db
    .select({ id: outboardPasses.id })
    .from(outboardPasses)
    .where(and(isNull(outboardPasses.reading), hasNoTask(server, 'align', sql`${outboardPasses.id}`)))
    .all();
  for (const { id } of recorded) queue.enqueue('align', id);
  const discarded = db
    .select({ jobId: deliveries.jobId, fileName: deliveries.fileName, outcome: deliveries.outcome })
    .from(deliveries)
    .where(eq(deliveries.state, 'discarded'))
    .all();
  for (const delivery of discarded) await removeFiles(server, delivery);
  const thrownAway = db.select().from(assemblies).where(eq(assemblies.state, 'discarded')).all();
  for (const { jobId, folderName } of thrownAway) {
    await rm(server.folder.record(jobId, folderName), { recursive: true, force: true });
  }
}

function hasNoTask({ db }: Context, kind: TaskKind, subject: ReturnType<typeof sql>) {
  return notExists(
    db
      .select({ id: tasks.id })
      .from(tasks)
      .where(and(eq(tasks.kind, kind), eq(tasks.subjectId, subject))),
  );
}

/** What becomes of a task's subject when it ends: a delivery that could not be written is open no more. */
export function settleSubject(server: Pick<ServerContext, 'db'>, { kind, state, subjectId }: Task): void {
  if (state === 'done') return;
  if (kind === 'render') advanceDelivery(server, subjectId, 'ended');
  if (kind === 'assemble') advanceAssembly(server, subjectId, 'ended');
}
