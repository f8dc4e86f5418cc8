import { existsSync } from 'node:fs';
import { rm, utimes } from 'node:fs/promises';
import { and, eq } from 'drizzle-orm';
import { decode } from '@/codecs/decode';
import { probe } from '@/codecs/probe';
import { AppError, isAppError } from '@/core/errors/app-error';
import { type AudioFormat, needsDecoding } from '@/formats/audio-format';
import { decodedFormat, peekHeader } from '@/workers/node/measure-file';
import { flush, placeFile } from '@/workers/node/place-file';
import type { ServerContext } from '../context';
import { sources } from '../db/schema';
import { newId } from '../ids';
import { sourcePath } from '../take-in/reference';
import { scaled, type TaskContext } from '../tasks/runner';

/** A source's samples: its own file, or what that was decoded to. */
export interface SourceAudio {
  path: string;
  /** What the file was decoded from, if it was. */
  origin: AudioFormat | null;
}

/** Part of a task that decoding takes where it is needed. */
const DECODING_SHARE = 0.5;

/**
 * Opens a source's samples for a task. A source that is not PCM is decoded first, if it has not been yet, and its row
 * then states how many frames it really has.
 *
 * @returns the samples, and the task's context for what is left to do
 */
export async function openAudio(
  server: ServerContext,
  sha256: string,
  fileName: string,
  context: TaskContext,
): Promise<SourceAudio & { context: TaskContext }> {
  const { db, folder } = server;
  const source = db.select().from(sources).where(eq(sources.sha256, sha256)).get();
  if (!source) throw new AppError('not-found', { what: 'source' });
  if (!needsDecoding(source.format)) {
    return { path: await sourcePath(server, source, fileName), origin: null, context };
  }
  const path = folder.decoded(sha256, trackOf(source.format));
  if (existsSync(path)) {
    // What was used last is swept last.
    await utimes(path, new Date(), new Date());
    return { path, origin: source.format, context };
  }
  const original = await sourcePath(server, source, fileName);
  const origin = await decodeSource(
    server,
    { path: original, sha256, stated: source.format, fileName },
    {
      ...context,
      onProgress: scaled(context.onProgress, 0, DECODING_SHARE),
    },
  );
  return { path, origin, context: { ...context, onProgress: scaled(context.onProgress, DECODING_SHARE, 1) } };
}

/** Which sound track of its file a source is. */
export function trackOf({ track }: AudioFormat): number {
  return track?.number ?? 1;
}

/** Decodes under a temporary name, flushes, states in the row what came out, and gives the name. */
async function decodeSource(
  server: ServerContext,
  { path, sha256, stated, fileName }: { path: string; sha256: string; stated: AudioFormat; fileName: string },
  { signal, onProgress }: TaskContext,
): Promise<AudioFormat> {
  const { db, folder } = server;
  const temporaryPath = folder.decodedPart(sha256, newId());
  const startedMs = performance.now();
  try {
    const probed = await probe(path, fileName, trackOf(stated));
    const decodeErrors = await decode(path, probed, temporaryPath, fileName, {
      isTimed: true,
      signal,
      onProgress: (seconds) =>
        onProgress({
          fraction: Math.min(1, seconds / Math.max(seconds, stated.durationSeconds, 1e-3)),
          timesRealTime: seconds / ((performance.now() - startedMs) / 1000),
        }),
    });
    const decoded = (await peekHeader(temporaryPath, fileName)).format;
    await flush(temporaryPath);
    const format = { ...decodedFormat(stated, decoded), decodeErrors };
    // The row first: it does not speak of the file that follows, which without it would pass for one without faults.
    db.update(sources)
      .set({ format })
      .where(and(eq(sources.sha256, sha256), eq(sources.format, stated)))
      .run();
    await placeFile(temporaryPath, folder.decoded(sha256, trackOf(stated)), fileName).catch((error) => {
      if (!isAppError(error, 'file-exists')) throw error;
    });
    return format;
  } finally {
    await rm(temporaryPath, { force: true });
  }
}
