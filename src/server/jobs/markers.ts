import { eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { markers, programmes } from '../db/schema';
import { newId } from '../ids';

/** Keeps a place or a span of a programme. Throws `not-found`. */
export function addMarker(
  { db, clock }: ServerContext,
  programmeId: string,
  marker: { startFrame: number; endFrame: number | null; name: string },
): string {
  if (!db.select().from(programmes).where(eq(programmes.id, programmeId)).get()) {
    throw new AppError('not-found', { what: 'programme' });
  }
  const id = newId();
  db.insert(markers)
    .values({ ...marker, id, programmeId, createdAtMs: clock.now() })
    .run();
  return id;
}

/** Throws `not-found`. */
export function renameMarker({ db }: ServerContext, markerId: string, name: string): void {
  const { changes } = db.update(markers).set({ name }).where(eq(markers.id, markerId)).run();
  if (changes === 0) throw new AppError('not-found', { what: 'marker' });
}

/** Lets go of a marker; of one that is gone already nothing is left to do. */
export function removeMarker({ db }: ServerContext, markerId: string): void {
  db.delete(markers).where(eq(markers.id, markerId)).run();
}
