import { existsSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { and, count, eq } from 'drizzle-orm';
import { probe } from '@/codecs/probe';
import { AppError, isAppError } from '@/core/errors/app-error';
import type { AudioFormat } from '@/formats/audio-format';
import { FileSink } from '@/workers/node/file-bytes';
import { peekHeader } from '@/workers/node/measure-file';
import { placeFile } from '@/workers/node/place-file';
import { StreamHash } from '@/workers/node/stream-hash';
import type { ServerContext } from '../context';
import { jobs, programmes, sources } from '../db/schema';
import { newId } from '../ids';
import { safeFileName, titleFromFileName } from './file-name';

export interface TakenIn {
  programmeId: string;
  title: string;
  sha256: string;
  /** The same bytes were in this job already. */
  alreadyThere: boolean;
}

/**
 * Takes in one file: streamed to disk and hashed on the way, its header read, then stored under its hash, recorded,
 * and queued to be measured. Whatever goes wrong, nothing is left behind and nothing that was there is touched.
 *
 * @param announcedBytes length that the sender announced; fewer are an interrupted transfer
 */
export async function takeIn(
  server: ServerContext,
  input: { jobId: string; fileName: string; body: AsyncIterable<Uint8Array>; announcedBytes?: number; title?: string },
): Promise<TakenIn> {
  const { db, folder, queue, runner, clock } = server;
  const fileName = safeFileName(input.fileName);
  if (!db.select().from(jobs).where(eq(jobs.id, input.jobId)).get()) throw new AppError('not-found', { what: 'job' });

  const temporaryPath = folder.incoming(newId());
  try {
    const { sha256, sizeBytes } = await receive(input.body, temporaryPath, fileName, input.announcedBytes);
    const format = await readFormat(temporaryPath, fileName);
    await store(temporaryPath, folder.source(sha256), fileName);

    const taken = db.transaction(
      (tx): TakenIn => {
        const nowMs = clock.now();
        tx.insert(sources).values({ sha256, sizeBytes, format, createdAtMs: nowMs }).onConflictDoNothing().run();
        const known = tx
          .select()
          .from(programmes)
          .where(and(eq(programmes.jobId, input.jobId), eq(programmes.sourceSha256, sha256)))
          .get();
        if (known) return { programmeId: known.id, title: known.title, sha256, alreadyThere: true };
        const position =
          tx.select({ n: count() }).from(programmes).where(eq(programmes.jobId, input.jobId)).get()?.n ?? 0;
        const programme = {
          id: newId(),
          jobId: input.jobId,
          sourceSha256: sha256,
          title: input.title ?? titleFromFileName(fileName),
          fileName,
          position,
          createdAtMs: nowMs,
        };
        tx.insert(programmes).values(programme).run();
        return { programmeId: programme.id, title: programme.title, sha256, alreadyThere: false };
      },
      { behavior: 'immediate' },
    );
    if (!server.sourceReport(sha256)) {
      queue.enqueue('measure', sha256);
      runner.wake();
    }
    return taken;
  } finally {
    await rm(temporaryPath, { force: true });
  }
}

async function receive(
  body: AsyncIterable<Uint8Array>,
  path: string,
  fileName: string,
  announcedBytes: number | undefined,
): Promise<{ sha256: string; sizeBytes: number }> {
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

/** What a file says of itself; where we don't own the format, FFmpeg is asked. */
async function readFormat(path: string, fileName: string): Promise<AudioFormat> {
  try {
    return (await peekHeader(path, fileName)).format;
  } catch (error) {
    if (!isAppError(error, 'not-audio')) throw error;
    return (await probe(path, fileName)).format;
  }
}

/** A source that is there already is the same to the byte: its name is its hash. */
async function store(temporaryPath: string, sourcePath: string, fileName: string): Promise<void> {
  if (existsSync(sourcePath)) return;
  try {
    await placeFile(temporaryPath, sourcePath, fileName);
  } catch (error) {
    if (!isAppError(error, 'file-exists')) throw error;
  }
}
