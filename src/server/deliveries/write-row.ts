import { and, desc, eq, sql } from 'drizzle-orm';
import { KIND_FACTS } from '@/core/delivery/file-kinds';
import { DEFAULT_TEMPLATE, fileStem } from '@/core/delivery/file-name';
import { describeFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { specPeak } from '@/core/spec/requirements/peak';
import type { ServerContext } from '../context';
import { deliveries, jobs, type LinePrediction } from '../db/schema';
import { newId } from '../ids';
import { currentTreatment, saveTreatment, versionFor } from '../treatments/treatments';
import { missedDelivery } from './decide';
import { changeLine, knownPrediction, lineOf, predictionOf } from './lines';
import { nameFieldsOf } from './names';
import { type Line, predict } from './predict';

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
export async function writeLine(server: ServerContext, lineId: string): Promise<string> {
  const seen = newestOf(server, lineId);
  if (seen?.state === 'open') return seen.id;
  for (;;) {
    const line = lineOf(server, lineId);
    const prediction = knownPrediction(server, line);
    // What is set meanwhile is predicted too: nothing is written that nobody has asked for.
    if (prediction) return order(server, line, prediction, { seenId: seen?.id });
    await predictionOf(server, line);
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
  const { lineId } = delivery;
  if (lineId === null) {
    throw new AppError('bad-request', { reason: 'this file is of before there was a sheet' });
  }
  const line = lineOf(server, lineId);
  const { limit } = delivery.treatment ?? {};
  const { ceiling } = delivery.spec.peak;
  const peak = delivery.report && specPeak(delivery.report.readings, delivery.spec);
  const excessDb = Math.max(0, (peak ?? ceiling) - ceiling);
  const was =
    line.way.kind === 'solved' ? line.way : { maxReductionDb: limit ? SOLVED_AGAIN_REDUCTION_DB : 0, marginDb: 0 };
  const marginDb = excessDb > 0 ? was.marginDb + excessDb + SOLVED_AGAIN_MARGIN_DB : was.marginDb;
  const way = { kind: 'solved', maxReductionDb: was.maxReductionDb, marginDb } as const;
  const prediction = await predict(server, { ...line, way });
  return server.db.transaction(
    () => {
      const open = newestOf(server, lineId);
      if (open?.state === 'open') return open.id;
      missedDelivery(server, deliveryId);
      changeLine(server, lineId, { way });
      return order(server, lineOf(server, lineId), prediction, { seenId: open?.id, replacesId: deliveryId });
    },
    { behavior: 'immediate' },
  );
}

/** The row of a delivery, its name and the task that writes it: all of it, or nothing. */
function order(
  server: ServerContext,
  line: Line,
  prediction: LinePrediction,
  { seenId, replacesId = null }: { seenId: string | undefined; replacesId?: string | null },
): string {
  const { db, queue, runner, clock } = server;
  const { samplePeakDbfs } = prediction.readings;
  if (samplePeakDbfs !== null && samplePeakDbfs > 0 && prediction.format.bitDepth !== 32) {
    throw new AppError('would-clip', { samplePeakDbfs, file: describeFormat(prediction.format) });
  }
  const { keep, programmeId } = line;
  const id = db.transaction(
    (tx) => {
      const newest = newestOf(server, line.id);
      if (newest && newest.id !== seenId) return newest.id;
      if (!currentTreatment(server, programmeId)) saveTreatment(server, programmeId, UNTREATED);
      const current = currentTreatment(server, programmeId);
      const job = tx.select().from(jobs).where(eq(jobs.id, line.jobId)).get();
      if (!current || !job) throw new AppError('not-found', { what: 'programme' });
      const { id: treatmentId, version } = keep
        ? versionFor(server, programmeId, { ...current.treatment, keep })
        : current;
      const { format, treatment, landing } = prediction;
      const stem = fileStem(job.nameTemplate ?? DEFAULT_TEMPLATE, nameFieldsOf(server, line, format, version));
      const deliveryId = newId();
      tx.insert(deliveries)
        .values({
          ...{ id: deliveryId, jobId: job.id, programmeId, treatmentId, lineId: line.id, format, treatment, landing },
          ...{ spec: prediction.spec, predicted: prediction.readings, state: 'open', replacesId },
          fileName: freeName(server, job.id, stem, KIND_FACTS[format.kind].extensions[0]),
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
function newestOf({ db }: ServerContext, lineId: string) {
  return db
    .select({ id: deliveries.id, state: deliveries.state })
    .from(deliveries)
    .where(eq(deliveries.lineId, lineId))
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
