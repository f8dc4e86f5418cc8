import { describeFormat } from '@/core/delivery/format';
import { AppError, isAppError } from '@/core/errors/app-error';
import { specPeak } from '@/core/spec/requirements/peak';
import type { ServerContext } from '../context';
import type { RowPrediction } from '../db/stored/delivery';
import { missedDelivery } from './decide';
import { writeRowMessages as messages } from './messages';
import { newestOf, type Order, orderDeliveries } from './order';
import { factsOf, factsOfEach, predict } from './predict';
import { changeRow, knownPrediction, predictionOf, rowOf, rowsAmong } from './rows';

/** How much more than came out over the ceiling is left free when a file is solved again. */
const SOLVED_AGAIN_MARGIN_DB = 0.1;
/** Allowed to a limiter that was not worked out before, where a file is solved again. */
const SOLVED_AGAIN_REDUCTION_DB = 3;

/** Why something could not be done for one row of the sheet. */
export interface RowFailure {
  rowId: string;
  happened: string;
  todo: string;
}

/**
 * Has a row of the sheet written, as it is predicted now, under a name that is taken from here on. However many ask at once, one
 * file is written.
 *
 * @returns the delivery; where one of this row is open already, or was begun while this was predicted, that
 * @throws AppError as `predict`, or `would-clip`
 */
export async function writeRow(server: ServerContext, rowId: string): Promise<string> {
  const seenId = newestOf(server, [rowId]).get(rowId)?.id;
  for (;;) {
    const newest = newestOf(server, [rowId]).get(rowId);
    if (newest && (newest.state === 'open' || newest.id !== seenId)) return newest.id;
    const outcome = orderPredicted(server, [rowId]).get(rowId);
    if (outcome instanceof AppError) throw outcome;
    if (outcome !== undefined) return outcome;
    // What is set meanwhile is predicted too: nothing is written that nobody has asked for.
    await predictionOf(server, rowOf(server, rowId));
  }
}

/**
 * Has rows written, each as `writeRow`: those that are predicted, all at once. What keeps one from it is told of that one, and the
 * others go on.
 */
export async function writeRows(server: ServerContext, rowIds: readonly string[]): Promise<RowFailure[]> {
  const outcomes = orderPredicted(server, rowIds);
  const failures: RowFailure[] = [];
  for (const rowId of new Set(rowIds)) {
    try {
      const outcome = outcomes.get(rowId);
      if (outcome instanceof AppError) throw outcome;
      if (outcome === undefined) await writeRow(server, rowId);
    } catch (error) {
      if (!isAppError(error)) throw error;
      const { happened, todo } = error.text;
      failures.push({ rowId, happened, todo });
    }
  }
  return failures;
}

/**
 * Has those of some rows written that are predicted: all in one transaction, for which the disk is waited once.
 *
 * @returns by row its delivery, or the one of it that is open already; why it can't be written; and nothing of one that is to be
 * predicted first, or is gone
 */
function orderPredicted(server: ServerContext, rowIds: readonly string[]): Map<string, string | AppError> {
  const outcomes = new Map<string, string | AppError>();
  server.db.transaction(
    () => {
      const newest = newestOf(server, rowIds);
      const rows = rowsAmong(server, rowIds);
      const facts = factsOfEach(server, rows);
      const orders: Order[] = [];
      for (const row of rows) {
        const open = newest.get(row.id);
        const about = facts.get(row.id);
        const prediction = about && knownPrediction(server, row, about);
        const clipping = prediction && clippingOf(prediction);
        if (open?.state === 'open') outcomes.set(row.id, open.id);
        else if (clipping) outcomes.set(row.id, clipping);
        else if (prediction) orders.push({ row, about, prediction, replacesId: null });
      }
      const ids = orderDeliveries(server, orders);
      orders.forEach(({ row }, i) => {
        outcomes.set(row.id, ids[i] as string);
      });
    },
    { behavior: 'immediate' },
  );
  server.runner.wake();
  return outcomes;
}

/** What keeps a file of plain numbers from being written that would stand over full scale. */
function clippingOf({ readings: { samplePeakDbfs }, format }: RowPrediction): AppError<'would-clip'> | undefined {
  if (samplePeakDbfs === null || samplePeakDbfs <= 0 || format.bitDepth === 32) return undefined;
  return new AppError('would-clip', { samplePeakDbfs, file: describeFormat(format) });
}

/**
 * Writes a file that misses anew, its levels worked out from what came of it. The one that misses is thrown away once the new
 * one is there. Returns the new delivery; where that is being written already, the same.
 *
 * @throws AppError as `predict`, `would-clip`, or `bad-request` where there is nothing to decide any more
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
  const clipping = clippingOf(prediction);
  if (clipping) throw clipping;
  const solvedId = server.db.transaction(
    () => {
      const open = newestOf(server, [rowId]).get(rowId);
      if (open?.state === 'open') return open.id;
      missedDelivery(server, deliveryId);
      changeRow(server, rowId, { levelMode });
      const changed = rowOf(server, rowId);
      const [id] = orderDeliveries(server, [
        { row: changed, about: factsOf(server, changed), prediction, replacesId: deliveryId },
      ]);
      return id as string;
    },
    { behavior: 'immediate' },
  );
  server.runner.wake();
  return solvedId;
}
