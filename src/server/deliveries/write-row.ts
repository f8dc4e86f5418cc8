import { and, desc, eq, sql } from 'drizzle-orm';
import { DEFAULT_TEMPLATE, fileStem } from '@/core/delivery/file-name';
import { describeFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS } from '@/core/file-formats/file-formats';
import { specPeak } from '@/core/spec/requirements/peak';
import type { ServerContext } from '../context';
import { deliveries, jobs, programmes } from '../db/schema';
import type { RowPrediction } from '../db/stored/delivery';
import { newId } from '../ids';
import { currentTreatment, saveTreatment, versionFor } from '../treatments/treatments';
import { missedDelivery } from './decide';
import { writeRowMessages as messages } from './messages';
import { nameFieldsOf } from './names';
import { type DeliveryRow, predict } from './predict';
import { changeRow, knownPrediction, predictionOf, rowOf } from './rows';

const UNTREATED = { gainDb: 0 };

/** How much more than came out over the ceiling is left free when a file is solved again. */
const SOLVED_AGAIN_MARGIN_DB = 0.1;
/** Allowed to a limiter that was not worked out before, where a file is solved again. */
const SOLVED_AGAIN_REDUCTION_DB = 3;

/**
 * Has a row of the sheet written, as it is predicted now, under a name that is taken from here on. However many ask at once, one
 * file is written.
 *
 * @returns the delivery; where one of this row is open already, or was begun while this was predicted, that
 * @throws AppError as `predict`, or `would-clip`
 */
export async function writeRow(server: ServerContext, rowId: string): Promise<string> {
  const seen = newestOf(server, rowId);
  if (seen?.state === 'open') return seen.id;
  for (;;) {
    const row = rowOf(server, rowId);
    const prediction = knownPrediction(server, row);
    // What is set meanwhile is predicted too: nothing is written that nobody has asked for.
    if (prediction) return order(server, row, prediction, { seenId: seen?.id });
    await predictionOf(server, row);
  }
}

/**
 * Writes a file that misses anew, its levels worked out from what came of it. The one that misses is thrown away once the new
 * one is there. Returns the new delivery; where that is being written already, the same.
 *
 * @throws AppError as `predict`, or `bad-request` where there is nothing to decide any more
 */
export async function solveAgain(server: ServerContext, deliveryId: string): Promise<string> {
  const delivery = missedDelivery(server, deliveryId);
  const { rowId } = delivery;
  if (rowId === null) {
    throw new AppError('bad-request', { reason: messages.olderThanTheSheet });
  }
  const row = rowOf(server, rowId);
  const { limit } = delivery.treatment ?? {};
  const { ceiling } = delivery.spec.peak;
  const peak = delivery.report && specPeak(delivery.report.readings, delivery.spec);
  const excessDb = Math.max(0, (peak ?? ceiling) - ceiling);
  const was =
    row.levelMode.kind === 'solved'
      ? row.levelMode
      : { maxReductionDb: limit ? SOLVED_AGAIN_REDUCTION_DB : 0, marginDb: 0 };
  const marginDb = excessDb > 0 ? was.marginDb + excessDb + SOLVED_AGAIN_MARGIN_DB : was.marginDb;
  const levelMode = { kind: 'solved', maxReductionDb: was.maxReductionDb, marginDb } as const;
  const prediction = await predict(server, { ...row, levelMode });
  return server.db.transaction(
    () => {
      const open = newestOf(server, rowId);
      if (open?.state === 'open') return open.id;
      missedDelivery(server, deliveryId);
      changeRow(server, rowId, { levelMode });
      return order(server, rowOf(server, rowId), prediction, { seenId: open?.id, replacesId: deliveryId });
    },
    { behavior: 'immediate' },
  );
}

/** The row of a delivery, its name and the task that writes it: all of it, or nothing. */
function order(
  server: ServerContext,
  row: DeliveryRow,
  prediction: RowPrediction,
  { seenId, replacesId = null }: { seenId: string | undefined; replacesId?: string | null },
): string {
  const { db, queue, runner, clock } = server;
  const { samplePeakDbfs } = prediction.readings;
  if (samplePeakDbfs !== null && samplePeakDbfs > 0 && prediction.format.bitDepth !== 32) {
    throw new AppError('would-clip', { samplePeakDbfs, file: describeFormat(prediction.format) });
  }
  const { trim, programmeId } = row;
  const id = db.transaction(
    (tx) => {
      const newest = newestOf(server, row.id);
      if (newest && newest.id !== seenId) return newest.id;
      if (!currentTreatment(server, programmeId)) saveTreatment(server, programmeId, UNTREATED);
      const current = currentTreatment(server, programmeId);
      const programme = tx.select().from(programmes).where(eq(programmes.id, programmeId)).get();
      const job = tx.select().from(jobs).where(eq(jobs.id, row.jobId)).get();
      if (!current || !job || !programme) throw new AppError('not-found', { what: 'programme' });
      const { id: treatmentId, version } = trim
        ? versionFor(server, programmeId, { ...current.treatment, trim })
        : current;
      const { format, treatment, landing } = prediction;
      const stem = fileStem(job.nameTemplate ?? DEFAULT_TEMPLATE, nameFieldsOf(server, row, format, version));
      const deliveryId = newId();
      tx.insert(deliveries)
        .values({
          id: deliveryId,
          jobId: job.id,
          programmeId,
          treatmentId,
          sourceSha256: programme.sourceSha256,
          rowId: row.id,
          format,
          treatment,
          landing,
          spec: prediction.spec,
          predicted: prediction.readings,
          state: 'open',
          replacesId,
          fileName: freeName(server, job.id, stem, FILE_FORMATS[format.kind].extensions[0]),
          createdAtMs: clock.now(),
        })
        .run();
      queue.enqueue('render', deliveryId);
      return deliveryId;
    },
    { behavior: 'immediate' },
  );
  runner.wake();
  return id;
}

/** The newest delivery of a row, whatever has become of it. */
function newestOf({ db }: ServerContext, rowId: string) {
  return db
    .select({ id: deliveries.id, state: deliveries.state })
    .from(deliveries)
    .where(eq(deliveries.rowId, rowId))
    .orderBy(desc(deliveries.createdAtMs), desc(sql`rowid`))
    .get();
}

/** A name that is free in its job, numbered on where that is taken. */
function freeName({ db }: ServerContext, jobId: string, stem: string, extension: string): string {
  const isTaken = (fileName: string) =>
    db
      .select({ id: deliveries.id })
      .from(deliveries)
      .where(and(eq(deliveries.jobId, jobId), eq(deliveries.fileName, fileName)))
      .get() !== undefined;
  let fileName = `${stem}.${extension}`;
  for (let n = 2; isTaken(fileName); n++) fileName = `${stem}-${n}.${extension}`;
  return fileName;
}
