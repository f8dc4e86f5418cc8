import { and, count, desc, eq, isNull, sql } from 'drizzle-orm';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import type { ServerContext } from '../context';
import { deliveries, deliveryRows, jobs, programmes, sourceReports, transfers, treatments } from '../db/schema';

/** A job in the list of all: how far it is. */
export interface JobSummary {
  id: string;
  name: string;
  createdAtMs: number;
  /** When anything in it was last set, written or sent. */
  touchedAtMs: number;
  isArchived: boolean;
  programmes: number;
  /** Of those, how many have been measured. */
  measured: number;
  /** Files written, and how many of them miss their spec. */
  written: number;
  missing: number;
  /** Of those that miss, how many nobody has accepted yet. */
  undecided: number;
  /** Rows of its sheet without a file, written or being written. */
  toWrite: number;
  /** Deliveries that their receivers accepted, refused, and that are on their way. */
  accepted: number;
  refused: number;
  underway: number;
}

/** Every job, newest first, with how far it is: counted by the database, whatever is in them. */
export function listJobs({ db }: ServerContext): JobSummary[] {
  const ofProgrammes = byJob(
    db
      .select({
        jobId: programmes.jobId,
        programmes: count(),
        measured: count(sourceReports.sha256),
        touchedAtMs: sql<number>`max(${programmes.createdAtMs})`,
      })
      .from(programmes)
      .leftJoin(
        sourceReports,
        and(eq(sourceReports.sha256, programmes.sourceSha256), eq(sourceReports.engineVersion, ENGINE_VERSION)),
      )
      .where(isNull(programmes.removedAtMs))
      .groupBy(programmes.jobId)
      .all(),
  );
  const ofTreatments = byJob(
    db
      .select({ jobId: programmes.jobId, touchedAtMs: sql<number>`max(${treatments.updatedAtMs})` })
      .from(treatments)
      .innerJoin(programmes, eq(programmes.id, treatments.programmeId))
      .groupBy(programmes.jobId)
      .all(),
  );
  const isMissing = sql`not coalesce(json_extract(${deliveries.verdict}, '$.value.inside'), 0)`;
  const ofDeliveries = byJob(
    db
      .select({
        jobId: deliveries.jobId,
        written: count(),
        missing: sql<number>`sum(${isMissing})`,
        undecided: sql<number>`sum(${isMissing} and ${deliveries.acceptedReason} is null)`,
        touchedAtMs: sql<number>`max(coalesce(${deliveries.writtenAtMs}, ${deliveries.createdAtMs}))`,
      })
      .from(deliveries)
      .where(eq(deliveries.state, 'written'))
      .groupBy(deliveries.jobId)
      .all(),
  );
  const ofRows = byJob(
    db
      .select({
        jobId: deliveryRows.jobId,
        toWrite: sql<number>`sum(not exists (select 1 from ${deliveries} where ${deliveries.rowId} = ${deliveryRows.id} and ${deliveries.state} in ('open', 'written')))`,
        touchedAtMs: sql<number>`max(${deliveryRows.createdAtMs})`,
      })
      .from(deliveryRows)
      .innerJoin(programmes, and(eq(programmes.id, deliveryRows.programmeId), isNull(programmes.removedAtMs)))
      .where(isNull(deliveryRows.removedAtMs))
      .groupBy(deliveryRows.jobId)
      .all(),
  );
  const latestRound = sql`${transfers.round} = (select max(own.round) from transfers own where own.delivery_id = ${transfers.deliveryId} and own.receiver_id = ${transfers.receiverId})`;
  const ofTransfers = byJob(
    db
      .select({
        jobId: deliveries.jobId,
        accepted: sql<number>`sum(${transfers.state} = 'accepted')`,
        refused: sql<number>`sum(${transfers.state} = 'refused')`,
        underway: sql<number>`sum(${transfers.state} in ('open', 'checking'))`,
        touchedAtMs: sql<number>`max(coalesce(${transfers.endedAtMs}, ${transfers.createdAtMs}))`,
      })
      .from(transfers)
      .innerJoin(deliveries, eq(deliveries.id, transfers.deliveryId))
      .where(latestRound)
      .groupBy(deliveries.jobId)
      .all(),
  );
  return db
    .select()
    .from(jobs)
    .where(isNull(jobs.deletedAtMs))
    .orderBy(desc(jobs.createdAtMs))
    .all()
    .map(({ id, name, createdAtMs, archivedAtMs }) => {
      const [taken, written, sent] = [ofProgrammes.get(id), ofDeliveries.get(id), ofTransfers.get(id)];
      const touched = [taken, ofTreatments.get(id), written, ofRows.get(id), sent].map((own) => own?.touchedAtMs ?? 0);
      return {
        id,
        name,
        createdAtMs,
        touchedAtMs: Math.max(createdAtMs, archivedAtMs ?? 0, ...touched),
        isArchived: archivedAtMs !== null,
        programmes: taken?.programmes ?? 0,
        measured: taken?.measured ?? 0,
        written: written?.written ?? 0,
        missing: written?.missing ?? 0,
        undecided: written?.undecided ?? 0,
        toWrite: ofRows.get(id)?.toWrite ?? 0,
        accepted: sent?.accepted ?? 0,
        refused: sent?.refused ?? 0,
        underway: sent?.underway ?? 0,
      };
    });
}

function byJob<Row extends { jobId: string }>(rows: readonly Row[]): Map<string, Row> {
  return new Map(rows.map((row) => [row.jobId, row]));
}
