import { constants } from 'node:fs';
import { copyFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { writtenFacts } from '@/core/delivery/facts';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS } from '@/core/file-formats/tags';
import { sampleName } from '@/core/lineup/book';
import { assess } from '@/core/spec/assess';
import { missedOf } from '@/core/spec/assessment';
import type { AssembledFile, TrackFile } from '@/workers/node/assembly-order';
import { deliveryLeftovers } from '@/workers/node/delivery-paths';
import { hashFile } from '@/workers/node/hash-file';
import { flush } from '@/workers/node/place-file';
import type { ServerContext } from '../context';
import type { AssemblyOutcome, StoredAssemblyOrder } from '../db/stored/assembly';
import { deliverProgramme } from '../deliveries/deliver-programme';
import { writtenDelivery } from '../deliveries/delivery-record';
import { type DeliveryRow, factsOf, predict } from '../deliveries/predict';
import { missingEdgesOf, rowOf } from '../deliveries/rows';
import { newId } from '../ids';
import { quietly, type TaskContext } from '../tasks/runner';
import { extensionOf, namesOf } from './book';
import { writeBookMessages as messages } from './messages';
import { writeRecordInto } from './write-record';

/**
 * Writes a book into a folder: the verified files of its chapters under their numbered names, one file of them all with chapters, a retail
 * sample where one is asked for, and a track sheet.
 *
 * @throws AppError as `writeAssembly`; `delivery-altered` or `not-found` where a chapter's file is not what was verified; `sample-misses`
 */
export async function writeBookInto(
  server: ServerContext,
  order: StoredAssemblyOrder,
  temporary: string,
  context: TaskContext,
): Promise<AssemblyOutcome> {
  const tracks = await copyChapters(server, order, temporary, context.signal);
  const sample = await writeSample(server, order, temporary, context);
  return writeRecordInto(server, order, temporary, context, { tracks, others: sample ? [sample] : [] });
}

async function copyChapters(
  server: ServerContext,
  order: StoredAssemblyOrder,
  temporary: string,
  signal: AbortSignal,
): Promise<(AssembledFile & TrackFile)[]> {
  const names = namesOf(
    order,
    order.members.map(({ title }) => title),
  );
  const files: (AssembledFile & TrackFile)[] = [];
  for (const [i, { deliveryId }] of order.members.entries()) {
    if (signal.aborted) throw new AppError('cancelled', {});
    const { jobId, fileName: deliveredName, report, outcome } = writtenDelivery(server, deliveryId ?? '');
    const [written] = outcome?.files ?? [];
    if (!written || !report) throw new AppError('not-found', { what: 'delivery' });
    const fileName = `${names[i]}${extensionOf(deliveredName)}`;
    const path = join(temporary, fileName);
    await copyFile(
      server.folder.delivery(jobId, written.fileName),
      path,
      constants.COPYFILE_EXCL | constants.COPYFILE_FICLONE,
    );
    await flush(path);
    const { sha256, sizeBytes } = written;
    if ((await hashFile(path)) !== sha256) throw new AppError('delivery-altered', { fileName: deliveredName });
    files.push({ fileName, role: 'audio', track: i + 1, sizeBytes, sha256, readings: report.readings });
  }
  return files;
}

/** A span of one chapter, as a row of the sheet would be that asks for what the chapter's own row does. */
async function writeSample(
  server: ServerContext,
  { name, spec, record, members }: StoredAssemblyOrder,
  temporary: string,
  context: TaskContext,
): Promise<AssembledFile | undefined> {
  const { sample } = record.book;
  const member = members.find(({ programmeId }) => programmeId === sample?.programmeId);
  if (!sample || !member) return undefined;
  const { rowId } = writtenDelivery(server, member.deliveryId ?? '');
  const chapter = rowOf(server, rowId ?? '');
  const { source, programme } = factsOf(server, chapter);
  const { sampleRateHz, frames } = source.format;
  const startFrame = Math.round(sample.startSeconds * sampleRateHz);
  const endFrame = startFrame + Math.round(sample.seconds * sampleRateHz);
  const misses = (reason: string) => new AppError('sample-misses', { title: member.title, reason });
  if (endFrame > frames) throw misses(messages.beyondTheEnd);
  let row: DeliveryRow = { ...chapter, trim: { startFrame, endFrame }, edges: null };
  let prediction = await predict(server, row);
  const edges = missingEdgesOf(server, row, prediction, { cutsLong: true });
  if (edges) {
    row = { ...row, edges };
    prediction = await predict(server, row);
  }
  const { format, treatment, landing } = prediction;
  const fileName = `${sampleName(name)}${extensionOf(writtenDelivery(server, member.deliveryId ?? '').fileName)}`;
  const temporaryPath = join(temporary, `.${newId()}.part`);
  const tags = { ...(programme.tags ?? NO_TAGS), title: sampleName(name), track: '', isrc: '' };
  try {
    const delivered = await deliverProgramme(
      server,
      { programme, source, temporaryPath, fileName, format, spec, tags, treatment, landing, cover: programme.cover },
      { ...quietly(), signal: context.signal },
    );
    const { report, expectedFrames } = delivered;
    const facts = writtenFacts(report, {
      format,
      treatment: delivered.treatment,
      source: source.format,
      expectedFrames,
    });
    const missed = missedOf(assess(spec, facts));
    if (missed.length > 0) throw misses(missed.map(({ phrase }) => phrase).join('; '));
    const [file] = delivered.files;
    if (!file) throw new AppError('not-as-written', { fileName });
    await rename(file.temporaryPath, join(temporary, fileName));
    return { fileName, role: 'sample', track: null, sizeBytes: file.sizeBytes, sha256: file.sha256 };
  } finally {
    for (const path of deliveryLeftovers(temporaryPath)) await rm(path, { force: true });
  }
}
