/** The picture of a film, as it is shown while its sound is heard. */
import { rename, rm, utimes } from 'node:fs/promises';
import { eq } from 'drizzle-orm';
import { pictureAndSound, writePictureSegment } from '@/codecs/picture-segment';
import { AppError } from '@/core/errors/app-error';
import { type PictureTimes, SEGMENT_SECONDS } from '@/core/film/picture-segments';
import type { ServerContext } from '../context';
import { sources } from '../db/schema';
import { newId } from '../ids';
import { filmTracksOf } from '../take-in/film-tracks';
import { programmeFile } from '../take-in/programme-file';
import { sourcePath } from '../take-in/reference';

/** When the picture of a programme's film is shown; null where it is of no film, or of one without a picture. Throws `not-found`. */
export async function pictureTimes(server: ServerContext, programmeId: string): Promise<PictureTimes | null> {
  const film = await openFilm(server, programmeId);
  if (!film) return null;
  const { pictureSeconds, soundSeconds, durationSeconds } = film;
  return { offsetSeconds: soundSeconds - pictureSeconds, durationSeconds };
}

/**
 * A piece of the picture of a programme's film, as WebM. It is made once, and kept for as long as there is room.
 *
 * @param number counted from 0
 * @returns where it lies
 * @throws AppError `not-found` where there is none, or as `writePictureSegment`
 */
export async function pictureSegment(
  server: ServerContext,
  programmeId: string,
  number: number,
  signal?: AbortSignal,
): Promise<string> {
  const film = await openFilm(server, programmeId);
  const startSeconds = number * SEGMENT_SECONDS;
  if (!film || startSeconds >= film.durationSeconds) throw new AppError('not-found', { what: 'picture' });
  const kept = server.folder.pictureSegment(film.sha256, number);
  const now = new Date();
  // Used now: what has lain longest goes first.
  if (
    await utimes(kept, now, now).then(
      () => true,
      () => false,
    )
  )
    return kept;
  const temporaryPath = server.folder.preview(newId());
  try {
    await writePictureSegment(film.path, temporaryPath, {
      fileName: film.fileName,
      fromSeconds: film.pictureSeconds + startSeconds,
      seconds: SEGMENT_SECONDS,
      signal,
    });
    await rename(temporaryPath, kept);
    return kept;
  } finally {
    await rm(temporaryPath, { force: true });
  }
}

async function openFilm(server: ServerContext, programmeId: string) {
  const { programme, source } = await programmeFile(server, programmeId);
  const film = filmTracksOf({ programmes: programme, sources: source });
  const own = film && server.db.select().from(sources).where(eq(sources.sha256, film.sha256)).get();
  if (!own) return null;
  const { fileName, tracks, sha256 } = film;
  const path = await sourcePath(server, own, fileName);
  const times = await pictureAndSound(path, fileName, tracks);
  return times && { ...times, path, fileName, sha256 };
}
