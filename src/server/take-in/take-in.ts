import { createReadStream, existsSync } from 'node:fs';
import { rename, rm } from 'node:fs/promises';
import { and, count, eq, isNull } from 'drizzle-orm';
import { probe } from '@/codecs/probe';
import { AppError, isAppError } from '@/core/errors/app-error';
import type { FilmTracks } from '@/core/film/film-tracks';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import type { AudioFormat } from '@/formats/audio-format';
import { FileSink, statFile } from '@/workers/node/file-bytes';
import { peekHeader } from '@/workers/node/measure-file';
import { flush, placeFile } from '@/workers/node/place-file';
import { hashStream, StreamHash } from '@/workers/node/stream-hash';
import type { FileReport } from '@/workers/protocol';
import type { ServerContext } from '../context';
import { jobs, programmes, sourceReports, sources } from '../db/schema';
import type { Reference } from '../db/stored/small';
import { newId } from '../ids';
import { checkRoom } from '../storage/free-space';
import { safeFileName, titleFromFileName } from './file-name';

export interface TakenIn {
  programmeId: string;
  title: string;
  sha256: string;
  /** The same bytes were in this job already. */
  alreadyThere: boolean;
}

interface Arriving {
  jobId: string;
  fileName: string;
  /** Instead of one made from the file's name. */
  title?: string;
  /** Which tracks of a film it is. */
  film?: FilmTracks;
}

/**
 * Takes in one file: streamed to disk and hashed on the way, its header read, then stored under its hash, recorded,
 * and queued to be measured. Whatever goes wrong, nothing is left behind and nothing that was there is touched.
 *
 * @param announcedBytes length that the sender announced; fewer are an interrupted transfer
 */
export async function takeIn(
  server: ServerContext,
  input: Arriving & { body: AsyncIterable<Uint8Array>; announcedBytes?: number },
): Promise<TakenIn> {
  const arriving = { ...input, fileName: safeFileName(input.fileName) };
  needJob(server, input.jobId);
  if (input.announcedBytes) await checkRoom(server.folder.root, arriving.fileName, input.announcedBytes);
  const temporaryPath = server.folder.incoming(newId());
  try {
    const bytes = await receive(input.body, temporaryPath, arriving.fileName, input.announcedBytes);
    return await admit(server, arriving, temporaryPath, bytes);
  } finally {
    await rm(temporaryPath, { force: true });
  }
}

/** Takes in a file that has arrived whole in the data folder, which then is there no longer, whatever happens. */
export async function takeInArrived(server: ServerContext, input: Arriving, path: string): Promise<TakenIn> {
  try {
    return await takeInOwn(server, input, path);
  } finally {
    await rm(path, { force: true });
  }
}

/** What was read of a file before it was taken in, and where its series and waveforms are. */
export interface MeasuredAhead {
  report: Omit<FileReport, 'sha256'>;
  analysisPath: string;
}

/** Takes in a file of the data folder, which then is there no longer. Where it can't be taken in, it stays. */
export async function takeInOwn(
  server: ServerContext,
  input: Arriving,
  path: string,
  measured?: MeasuredAhead,
): Promise<TakenIn> {
  const arriving = { ...input, fileName: safeFileName(input.fileName) };
  needJob(server, input.jobId);
  await flush(path);
  const bytes = await hashWhole(path, arriving.fileName);
  if (measured) await rename(measured.analysisPath, server.folder.analysis(bytes.sha256));
  const taken = await admit(server, arriving, path, bytes, measured?.report);
  await rm(path, { force: true });
  return taken;
}

/** Takes in a file where it lies, without copying it. Should the same bytes be stored here already, those are used. */
export async function takeInByReference(server: ServerContext, input: Arriving, path: string): Promise<TakenIn> {
  const arriving = { ...input, fileName: safeFileName(input.fileName) };
  needJob(server, input.jobId);
  const { mtimeMs } = await statFile(path, arriving.fileName);
  const bytes = await hashWhole(path, arriving.fileName);
  const format = await readFormat(path, arriving.fileName);
  return record(server, arriving, { ...bytes, format, reference: { path, modifiedAtMs: mtimeMs } });
}

/** Throws `not-found`. */
export function needJob({ db }: Pick<ServerContext, 'db'>, jobId: string): void {
  const job = db
    .select()
    .from(jobs)
    .where(and(eq(jobs.id, jobId), isNull(jobs.deletedAtMs)))
    .get();
  if (!job) throw new AppError('not-found', { what: 'job' });
}

/** Reads what a flushed file says of itself, stores it under its hash, and records it. */
async function admit(
  server: ServerContext,
  arriving: Arriving,
  path: string,
  bytes: Bytes,
  report?: MeasuredAhead['report'],
): Promise<TakenIn> {
  const format = await readFormat(path, arriving.fileName);
  await store(path, server.folder.source(bytes.sha256), arriving.fileName);
  return record(server, arriving, { ...bytes, format, reference: null }, report);
}

interface Bytes {
  sha256: string;
  sizeBytes: number;
}

function record(
  server: ServerContext,
  { jobId, fileName, title, film }: Arriving,
  source: Bytes & Pick<typeof sources.$inferInsert, 'format'> & { reference: Reference | null },
  report?: MeasuredAhead['report'],
): TakenIn {
  const { db, queue, runner, clock } = server;
  const { sha256, reference } = source;
  const taken = db.transaction(
    (tx): TakenIn => {
      const nowMs = clock.now();
      const known = tx.select().from(sources).where(eq(sources.sha256, sha256)).get();
      if (!known)
        tx.insert(sources)
          .values({ ...source, createdAtMs: nowMs })
          .run();
      // What is stored here needs nothing from elsewhere; what is elsewhere may have moved.
      else if (known.reference) tx.update(sources).set({ reference }).where(eq(sources.sha256, sha256)).run();
      if (report) {
        tx.insert(sourceReports)
          .values({ sha256, engineVersion: ENGINE_VERSION, report: { ...report, sha256 }, measuredAtMs: nowMs })
          .onConflictDoNothing()
          .run();
      }
      const programme = tx
        .select()
        .from(programmes)
        .where(and(eq(programmes.jobId, jobId), eq(programmes.sourceSha256, sha256)))
        .get();
      if (programme) {
        const { id: programmeId, removedAtMs } = programme;
        tx.update(programmes)
          .set({ removedAtMs: null, ...(film ? { film } : {}) })
          .where(eq(programmes.id, programmeId))
          .run();
        return { programmeId, title: programme.title, sha256, alreadyThere: removedAtMs === null };
      }
      const position = tx.select({ n: count() }).from(programmes).where(eq(programmes.jobId, jobId)).get()?.n ?? 0;
      const added = {
        id: newId(),
        jobId,
        sourceSha256: sha256,
        title: title ?? titleFromFileName(fileName),
        fileName,
        position,
        createdAtMs: nowMs,
        film: film ?? null,
      };
      tx.insert(programmes).values(added).run();
      return { programmeId: added.id, title: added.title, sha256, alreadyThere: false };
    },
    { behavior: 'immediate' },
  );
  if (!server.sourceReport(sha256)) {
    queue.enqueue('measure', sha256);
    runner.wake();
  }
  return taken;
}

async function receive(
  body: AsyncIterable<Uint8Array>,
  path: string,
  fileName: string,
  announcedBytes: number | undefined,
): Promise<Bytes> {
  const sink = await FileSink.create(path, fileName);
  const hash = new StreamHash();
  let sizeBytes = 0;
  try {
    let buffer = await hash.buffer();
    let filled = 0;
    const passOn = async () => {
      await sink.write(buffer.subarray(0, filled));
      hash.update(buffer, filled);
      buffer = await hash.buffer();
      filled = 0;
    };
    for await (const bytes of body) {
      for (let from = 0; from < bytes.length; ) {
        const piece = bytes.subarray(from, from + buffer.length - filled);
        buffer.set(piece, filled);
        filled += piece.length;
        from += piece.length;
        if (filled === buffer.length) await passOn();
      }
      sizeBytes += bytes.length;
    }
    if (announcedBytes !== undefined && sizeBytes < announcedBytes) {
      throw new AppError('upload-interrupted', { fileName });
    }
    await passOn();
    const [sha256] = await Promise.all([hash.digest(), sink.finish()]);
    return { sha256, sizeBytes };
  } catch (error) {
    await sink.abandon();
    if (isAppError(error)) throw error;
    throw new AppError('upload-interrupted', { fileName }, { cause: error });
  } finally {
    await hash.close();
  }
}

async function hashWhole(path: string, fileName: string): Promise<Bytes> {
  const { size } = await statFile(path, fileName);
  return { sha256: await hashStream(createReadStream(path, { highWaterMark: 1 << 20 }), fileName), sizeBytes: size };
}

/** What a file says of itself; where we don't own the format, FFmpeg is asked. */
export async function readFormat(path: string, fileName: string): Promise<AudioFormat> {
  try {
    return (await peekHeader(path, fileName)).format;
  } catch (error) {
    if (!isAppError(error, 'not-audio')) throw error;
    return (await probe(path, fileName)).format;
  }
}

/** A source that is there already is the same to the byte: its name is its hash. */
export async function store(temporaryPath: string, sourcePath: string, fileName: string): Promise<void> {
  if (existsSync(sourcePath)) return;
  try {
    await placeFile(temporaryPath, sourcePath, fileName);
  } catch (error) {
    if (!isAppError(error, 'file-exists')) throw error;
  }
}
