import { eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import { readSpanList, type UnreadLine } from '@/formats/span-list';
import type { ServerContext } from '../context';
import { markers, programmes, sources } from '../db/schema';
import { newId } from '../ids';
import { metadataOfProgramme } from '../take-in/time-code';

type Marker = typeof markers.$inferSelect;

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

/** What came of a list of spans. */
export interface ReadSpans {
  added: number;
  /** Were markers already. */
  known: number;
  unread: UnreadLine[];
}

/**
 * Makes markers of the spans that a list names; what is one already, with the same edges and name, is not made again.
 *
 * @param text an edit list (CMX 3600) or a table (CSV)
 * @throws AppError `not-found`
 */
export async function addSpans(server: ServerContext, programmeId: string, text: string): Promise<ReadSpans> {
  const { db, clock } = server;
  const programme = db.select().from(programmes).where(eq(programmes.id, programmeId)).get();
  const source = programme && db.select().from(sources).where(eq(sources.sha256, programme.sourceSha256)).get();
  if (!source) throw new AppError('not-found', { what: 'programme' });
  const { sampleRateHz, frames } = source.format;
  const { timeCode } = await metadataOfProgramme(server, programmeId);
  const { spans, unread } = readSpanList(text, { sampleRateHz, frames, timeCode });
  const keyOf = ({ name, startFrame, endFrame }: Pick<Marker, 'name' | 'startFrame' | 'endFrame'>) =>
    `${startFrame} ${endFrame} ${name}`;
  return db.transaction(
    (tx): ReadSpans => {
      const there = tx.select().from(markers).where(eq(markers.programmeId, programmeId)).all();
      const known = new Set(there.map(keyOf));
      const added = spans.filter((span) => !known.has(keyOf(span)) && known.add(keyOf(span)));
      const createdAtMs = clock.now();
      for (const span of added)
        tx.insert(markers)
          .values({ ...span, id: newId(), programmeId, createdAtMs })
          .run();
      return { added: added.length, known: spans.length - added.length, unread };
    },
    { behavior: 'immediate' },
  );
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
