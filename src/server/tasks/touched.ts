import { eq } from 'drizzle-orm';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import {
  assemblies,
  batches,
  deliveries,
  lineUps,
  outboardPasses,
  programmes,
  type TaskKind,
  transfers,
} from '../db/schema';
import { partOf } from '../take-in/under-way';
import type { TaskEvent } from './runner';

/** A programme, what is written of a line-up, a batch, the copies of a job, or anything of it that people set, that is not what it was. */
type TouchedOfJob = { jobId: string } & (
  | { isEdited: true }
  | { programmeId: string }
  | { lineUpId: string }
  | { batchId: string }
  | { isCopiedOut: true }
);

/** What is no longer what it was: of a job, or specs or receivers, which all jobs share. */
export type Touched = TouchedOfJob | { isShared: true };

/** Somebody has set something. */
interface EditEvent {
  kind: 'edit';
}

/** What pages are told: of a task, how far it is, and where it begins or ends, whose work it is; and of what was set elsewhere. */
export type ServerEvent = (TaskEvent | EditEvent) & { touched: Touched[] };

const SUBJECTS: Readonly<Record<TaskKind, (server: Pick<ServerContext, 'db'>, subjectId: string) => Touched[]>> = {
  measure: ({ db }, sha256) => {
    const ofSource = db.select().from(programmes).where(eq(programmes.sourceSha256, sha256)).all();
    // What came back of outboard gear is compared where what was sent is.
    const sent = db
      .select({ id: outboardPasses.programmeId })
      .from(outboardPasses)
      .where(
        among(
          outboardPasses.passProgrammeId,
          ofSource.map(({ id }) => id),
        ),
      )
      .all();
    return ofSource.flatMap(({ jobId, id }) =>
      [id, ...sent.map((own) => own.id)].map((programmeId) => ({ jobId, programmeId })),
    );
  },
  render: ({ db }, deliveryId) =>
    db
      .select({ jobId: deliveries.jobId, programmeId: deliveries.programmeId })
      .from(deliveries)
      .where(eq(deliveries.id, deliveryId))
      .all(),
  assemble: ({ db }, assemblyId) =>
    db
      .select({ jobId: assemblies.jobId, lineUpId: assemblies.lineUpId })
      .from(assemblies)
      .where(eq(assemblies.id, assemblyId))
      .all(),
  'null-test': ({ db }, lineUpId) =>
    db.select({ jobId: lineUps.jobId, lineUpId: lineUps.id }).from(lineUps).where(eq(lineUps.id, lineUpId)).all(),
  batch: ({ db }, batchId) =>
    db.select({ jobId: batches.jobId, batchId: batches.id }).from(batches).where(eq(batches.id, batchId)).all(),
  send: ({ db }, transferId) =>
    db
      .select({ jobId: deliveries.jobId, programmeId: deliveries.programmeId })
      .from(transfers)
      .innerJoin(deliveries, eq(deliveries.id, transfers.deliveryId))
      .where(eq(transfers.id, transferId))
      .all(),
  // What a simulated intake looks at is told by the transfer that brought it.
  check: () => [],
  align: ({ db }, passId) =>
    db
      .select({ jobId: programmes.jobId, programmeId: programmes.id })
      .from(outboardPasses)
      .innerJoin(programmes, eq(programmes.id, outboardPasses.programmeId))
      .where(eq(outboardPasses.id, passId))
      .all(),
  tracks: programmeOfPart,
  rendering: programmeOfPart,
  'copy-out': (_, jobId) => [{ jobId, isCopiedOut: true }],
};

function programmeOfPart({ db }: Pick<ServerContext, 'db'>, subjectId: string) {
  return db
    .select({ jobId: programmes.jobId, programmeId: programmes.id })
    .from(programmes)
    .where(eq(programmes.id, partOf(subjectId).programmeId))
    .all();
}

/** An event with what it touches as it begins, and as it ends; nothing is touched meanwhile. */
export function withTouched(server: Pick<ServerContext, 'db'>, event: TaskEvent): ServerEvent {
  const isUnderWay = event.state === 'running' && event.fraction > 0;
  return { ...event, touched: isUnderWay ? [] : SUBJECTS[event.kind](server, event.subjectId) };
}
