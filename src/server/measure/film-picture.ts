/** The picture of a film, as it is shown while its sound is heard. */
import { rename, rm, utimes } from 'node:fs/promises';
import { eq } from 'drizzle-orm';
import { pictureAndSound, writePictureSegment } from '@/codecs/picture-segment';
import { AppError } from '@/core/errors/app-error';
import { PICTURE_SEGMENT_SECONDS, type PictureTimes } from '@/core/film/picture-segments';
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
 * A segment of the picture of a programme's film, as WebM. It is made once, and cached for as long as there is room.
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
  const startSeconds = number * PICTURE_SEGMENT_SECONDS;
  if (!film || startSeconds >= film.durationSeconds) throw new AppError('not-found', { what: 'picture' });
  const cached = server.folder.pictureSegment(film.sha256, number);
  if (await isThere(cached)) return cached;
  const temporaryPath = server.folder.preview(newId());
  try {
    await writePictureSegment(film.path, temporaryPath, {
      fileName: film.fileName,
      fromSeconds: film.pictureSeconds + startSeconds,
      seconds: PICTURE_SEGMENT_SECONDS,
      signal,
    });
    await rename(temporaryPath, cached);
    return cached;
  } finally {
    await rm(temporaryPath, { force: true });
  }
}

/** Whether a cached file is there. It is marked as used now: what was used longest ago is removed first. */
async function isThere(path: string): Promise<boolean> {
  const now = new Date();
  try {
    await utimes(path, now, now);
    return true;
  } catch {
    return false;
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
