import { isDeepStrictEqual } from 'node:util';
import { and, desc, eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { Readings } from '@/core/loudness/readings';
import { type Treatment, type TreatmentInput, treatmentSchema } from '@/core/treatment/treatment';
import type { ServerContext } from '../context';
import { deliveries, programmes, treatments } from '../db/schema';
import { newId } from '../ids';

/**
 * Keeps a programme's treatment. The newest version is changed as long as nothing has been written from it; after
 * that, a change makes the next version.
 *
 * @returns the number of the version that holds it
 */
export function saveTreatment(server: ServerContext, programmeId: string, input: TreatmentInput): number {
  const treatment = treatmentSchema.parse(input);
  const { db, clock } = server;
  return db.transaction(
    (tx) => {
      if (!tx.select().from(programmes).where(eq(programmes.id, programmeId)).get()) {
        throw new AppError('not-found', { what: 'programme' });
      }
      const newest = tx
        .select()
        .from(treatments)
        .where(eq(treatments.programmeId, programmeId))
        .orderBy(desc(treatments.version))
        .get();
      if (newest && isDeepStrictEqual(newest.treatment, treatment)) return newest.version;
      const isWritten =
        newest && tx.select().from(deliveries).where(eq(deliveries.treatmentId, newest.id)).get() !== undefined;
      if (newest && !isWritten) {
        tx.update(treatments)
          .set({ treatment, predicted: null, updatedAtMs: clock.now() })
          .where(eq(treatments.id, newest.id))
          .run();
        return newest.version;
      }
      const version = (newest?.version ?? 0) + 1;
      tx.insert(treatments).values({ id: newId(), programmeId, version, treatment, updatedAtMs: clock.now() }).run();
      return version;
    },
    { behavior: 'immediate' },
  );
}

export function newestTreatment(server: ServerContext, programmeId: string) {
  return server.db
    .select()
    .from(treatments)
    .where(eq(treatments.programmeId, programmeId))
    .orderBy(desc(treatments.version))
    .get();
}

/** Changes some steps of a programme's newest treatment, or of one that does nothing; the others stay. See saveTreatment. */
export function changeTreatment(server: ServerContext, programmeId: string, change: Partial<TreatmentInput>): number {
  const { gainDb, ...rest } = newestTreatment(server, programmeId)?.treatment ?? { gainDb: 0 };
  return saveTreatment(server, programmeId, { gainDb, ...rest, ...change });
}

/** Keeps what a version with a limiter was forecast to read, unless it has been changed meanwhile. */
export function keepForecast(
  { db }: ServerContext,
  programmeId: string,
  version: number,
  treatment: Treatment,
  predicted: Readings,
): void {
  db.update(treatments)
    .set({ predicted })
    .where(
      and(
        eq(treatments.programmeId, programmeId),
        eq(treatments.version, version),
        eq(treatments.treatment, treatment),
      ),
    )
    .run();
}
