import { setImmediate } from 'node:timers/promises';
import type { BatchItem, BatchWish } from '@/core/batch/batch';
import { fittedFormat } from '@/core/delivery/fitted-format';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { withRowEdges } from '@/core/delivery/row-edges';
import { AppError, isAppError, toErrorRecord } from '@/core/errors/app-error';
import { NO_TAGS } from '@/core/file-formats/tags';
import { chapterTags, chapterTitles } from '@/core/lineup/book';
import { isMovedByGain, isOfFormat } from '@/core/spec/assess';
import { lowerName, missedOf } from '@/core/spec/assessment';
import { refitSteps } from '@/core/treatment/refit';
import { gainOnly, stepNamed } from '@/core/treatment/treatment';
import { eachOf } from '@/workers/node/each-of';
import { WorkerError } from '@/workers/node/pool';
import type { Progress } from '@/workers/protocol';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes } from '../db/schema';
import type { RowPrediction } from '../db/stored/delivery';
import { factsOf, predict } from '../deliveries/predict';
import {
  addMissingEdges,
  addRow,
  keyOf,
  missingEdgesOf,
  predictionOf,
  rowOf,
  rowsOfProgramme,
  setTags,
} from '../deliveries/rows';
import { viewSheet } from '../deliveries/sheet';
import { applyTemplate } from '../deliveries/templates';
import { solveAgain, writeRow } from '../deliveries/write-row';
import { programmesWhere } from '../jobs/programme-view';
import { listLineUps } from '../line-ups/line-ups';
import { specNamed } from '../specs/specs';
import type { TaskContext } from '../tasks/runner';
import { changeTreatment, currentTreatment } from '../treatments/treatments';
import { batchOf, recordItem } from './batches';
import { performMessages as messages } from './messages';
import { rowLike } from './row-like';
import { writeReview } from './write-review';

/** What has come of one programme, but for which it is. */
type Outcome = Pick<BatchItem, 'state' | 'text'> & Partial<Pick<BatchItem, 'rowId' | 'file'>>;

/**
 * Does what a batch asks, for every programme that still waits for it. What fails for one is said there, and the others go on. Done
 * again after a crash, it goes on with those that are left.
 */
export async function performBatch(server: ServerContext, batchId: string, context: TaskContext): Promise<void> {
  const { wish, items, jobId } = batchOf(server, batchId);
  const left = items.filter(({ state }) => state === 'waiting');
  const seconds = durationsOf(server, left);
  const startedMs = performance.now();
  let [done, doneSeconds] = [items.length - left.length, 0];
  /** How far those are that are worked on. */
  const begun = new Map<string, number>();
  const tell = (timesRealTime: number | null) => {
    const part = [...begun.values()].reduce((sum, fraction) => sum + fraction, 0);
    context.onProgress({ fraction: (done + part) / items.length, timesRealTime });
  };
  await eachOf(left, async ({ programmeId }) => {
    // Much of this waits for nothing: whoever asks for something else is answered in between.
    await setImmediate();
    if (context.signal.aborted) throw new AppError('cancelled', {});
    const onProgress = ({ fraction, timesRealTime }: Progress) => {
      begun.set(programmeId, fraction);
      tell(timesRealTime);
    };
    const outcome = await outcomeOf(server, jobId, programmeId, wish, { ...context, onProgress });
    recordItem(server, batchId, { programmeId, rowId: null, file: null, ...outcome });
    begun.delete(programmeId);
    done++;
    doneSeconds += seconds.get(programmeId) ?? 0;
    tell(doneSeconds / Math.max(1e-3, (performance.now() - startedMs) / 1000));
  });
}

function durationsOf(server: ServerContext, items: readonly BatchItem[]): Map<string, number> {
  const ids = items.map(({ programmeId }) => programmeId);
  return new Map(
    programmesWhere(server, among(programmes.id, ids)).map(({ programmes: { id }, sources: { format } }) => [
      id,
      format.frames / format.sampleRateHz,
    ]),
  );
}

/** Sets steps of a programme as another of the job has them now. */
function copySteps(
  server: ServerContext,
  jobId: string,
  programmeId: string,
  { fromId, steps: names }: Extract<BatchWish, { kind: 'steps' }>,
): Outcome {
  const rows = programmesWhere(server, among(programmes.id, [fromId, programmeId]));
  const [from, to] = [fromId, programmeId].map((id) => rows.find((row) => row.programmes.id === id));
  if (!from || !to || from.programmes.jobId !== jobId || from.programmes.removedAtMs !== null)
    return { state: 'failed', text: messages.sourceGone };
  const treatmentOf = (id: string) => currentTreatment(server, id)?.treatment ?? gainOnly(0);
  const { steps, unfit } = refitSteps(treatmentOf(fromId), names, from.sources.format, {
    ...to.sources.format,
    resampleHz: treatmentOf(programmeId).resampleHz,
  });
  if (Object.keys(steps).length > 0) changeTreatment(server, programmeId, steps);
  const titles = unfit.map((name) => stepNamed(name).title).join(', ');
  return unfit.length > 0 ? { state: 'missed', text: messages.unfit(titles) } : { state: 'done', text: messages.set };
}

async function outcomeOf(
  server: ServerContext,
  jobId: string,
  programmeId: string,
  wish: BatchWish,
  context: TaskContext,
): Promise<Outcome> {
  try {
    const [row] = programmesWhere(server, among(programmes.id, [programmeId]));
    if (!row || row.programmes.removedAtMs !== null) return { state: 'failed', text: messages.gone };
    switch (wish.kind) {
      case 'treatment':
        changeTreatment(server, programmeId, wish.change);
        return { state: 'done', text: messages.set };
      case 'steps':
        return copySteps(server, jobId, programmeId, wish);
      case 'tags':
        setTags(server, programmeId, { ...(row.programmes.tags ?? NO_TAGS), ...wish.tags });
        return { state: 'done', text: messages.set };
      case 'template':
        applyTemplate(server, wish.templateId, [programmeId]);
        return { state: 'done', text: messages.set };
      case 'meet':
        return await meet(server, jobId, programmeId, wish);
      case 'deliver':
        return await deliverOne(server, jobId, programmeId, wish);
      case 'solve-again':
        return await solveMisses(server, jobId, programmeId);
      case 'review':
        return await writeReview(server, jobId, programmeId, wish, context);
    }
  } catch (error) {
    // What was broken off did not fail: it waits, for whoever goes on.
    if (context.signal.aborted || isAppError(error, 'cancelled')) throw error;
    const { happened, todo } = error instanceof WorkerError ? error.record : toErrorRecord(error);
    return { state: 'failed', text: `${happened} ${todo}` };
  }
}

/** Sets a programme's treatment so that it meets a spec, as far as gain, limiter and edges reach. */
async function meet(
  server: ServerContext,
  jobId: string,
  programmeId: string,
  { specId, maxReductionDb, fitsEdges }: Extract<BatchWish, { kind: 'meet' }>,
): Promise<Outcome> {
  // As a row would be: of plain samples, whatever the spec asks of a file is asked at hand-over.
  let row = rowLike(jobId, programmeId, specId, maxReductionDb);
  let prediction = await predict(server, row);
  const edges = fitsEdges ? missingEdgesOf(server, row, prediction, { cutsLong: true }) : undefined;
  if (edges) {
    row = { ...row, edges };
    prediction = await predict(server, row);
  }
  const { gainDb, limit } = prediction.treatment;
  const { paddingStart, paddingEnd, trim } = withRowEdges(factsOf(server, row).treatment, edges ?? null);
  changeTreatment(server, programmeId, { gainDb, limit, ...(edges ? { paddingStart, paddingEnd, trim } : {}) });
  const missed = missedOf(prediction.verdict).filter((item) => !isOfFormat(item));
  return missed.length === 0 ? { state: 'done', text: messages.met } : { state: 'missed', text: phrasesOf(missed) };
}

/** Has a file written that meets a spec, if it will; else says what no gain mends, and leaves the row for a person. */
async function deliverOne(
  server: ServerContext,
  jobId: string,
  programmeId: string,
  { specId, format, maxReductionDb, fitsEdges, bookId }: Extract<BatchWish, { kind: 'deliver' }>,
): Promise<Outcome> {
  if (bookId !== null) fillTags(server, jobId, programmeId, bookId);
  const wanted = {
    specId,
    // Where none was stated, one was chosen for all as it was asked.
    format: format ?? fittedFormat(deliveryFormatSchema.parse({ kind: 'wav' }), specNamed(server, specId)),
    levelMode: { kind: 'solved', maxReductionDb, marginDb: 0 } as const,
    receiverId: null,
  };
  const known = rowsOfProgramme(server, programmeId).find((row) => row.trim === null && keyOf(row) === keyOf(wanted));
  const { id: rowId } = known ?? addRow(server, { programmeId, ...wanted });
  if (fitsEdges) await addMissingEdges(server, rowId, { cutsLong: true });
  const prediction = await predictionOf(server, rowOf(server, rowId));
  const missed = missedOf(prediction.verdict);
  if (missed.length > 0) return { state: 'missed', text: phrasesOf(missed), rowId };
  const view = viewSheet(server, jobId, programmeId).rows.find(({ id }) => id === rowId);
  if (view?.delivery?.written?.verdict.inside && !view.isStale) return { state: 'done', text: messages.written, rowId };
  await writeRow(server, rowId);
  return { state: 'done', text: messages.writing, rowId };
}

/** Has files of a programme written anew that miss their specs, and that nobody has accepted, where a gain may mend that. */
async function solveMisses(server: ServerContext, jobId: string, programmeId: string): Promise<Outcome> {
  const misses = viewSheet(server, jobId, programmeId).rows.flatMap(({ delivery, isStale }) => {
    const verdict = delivery?.written?.verdict;
    const isMissed = verdict && !verdict.inside && !isStale && delivery.acceptedReason === null;
    return isMissed && isMovedByGain(verdict) ? [delivery] : [];
  });
  for (const { id } of misses) await solveAgain(server, id);
  const [first] = misses;
  return first
    ? { state: 'done', text: messages.writing, rowId: first.rowId }
    : { state: 'done', text: messages.noMiss };
}

/** Gives a chapter the tags of its book that it has not. A book that is not there any more gives none. */
function fillTags(server: ServerContext, jobId: string, programmeId: string, bookId: string): void {
  const book = listLineUps(server, jobId).find(({ id }) => id === bookId);
  const place = book?.members.findIndex((member) => member.programmeId === programmeId) ?? -1;
  const [row] = programmesWhere(server, among(programmes.id, [programmeId]));
  if (!book || place < 0 || !row) return;
  const { tags, title } = row.programmes;
  const { name, record, members } = book;
  const titles = chapterTitles(
    record.book,
    members.map(() => title),
  );
  const said = { title: name, author: record.artist, chapters: members.length };
  const own = { place: place + 1, title: titles[place] ?? title };
  setTags(server, programmeId, chapterTags(tags ?? NO_TAGS, said, own));
}

/** Each with its name: a loudness is not named in its own phrase. */
function phrasesOf(missed: RowPrediction['verdict']['items']): string {
  return missed
    .map(({ name, phrase }) => (phrase.startsWith(lowerName(name)) ? phrase : `${lowerName(name)} ${phrase}`))
    .join('; ');
}
