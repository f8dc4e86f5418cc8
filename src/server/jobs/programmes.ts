import { eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes } from '../db/schema';

type Change = Partial<Pick<typeof programmes.$inferInsert, 'title' | 'note'>>;

/** Changes what a person calls a programme, or notes of it. Throws `not-found`. */
export function changeProgramme({ db }: ServerContext, programmeId: string, change: Change): void {
  const { changes } = db.update(programmes).set(change).where(eq(programmes.id, programmeId)).run();
  if (changes === 0) throw new AppError('not-found', { what: 'programme' });
}

/** Takes a programme out of its job, or puts it back. Its source, treatments and deliveries stay. Throws `not-found`. */
export function removeProgramme({ db, clock }: ServerContext, programmeId: string, isRemoved: boolean): void {
  const removedAtMs = isRemoved ? clock.now() : null;
  const { changes } = db.update(programmes).set({ removedAtMs }).where(eq(programmes.id, programmeId)).run();
  if (changes === 0) throw new AppError('not-found', { what: 'programme' });
}

/** Puts programmes into a group, or takes them out of theirs with null. */
export function groupProgrammes(
  { db }: ServerContext,
  programmeIds: readonly string[],
  groupName: string | null,
): void {
  db.update(programmes).set({ groupName }).where(among(programmes.id, programmeIds)).run();
}
