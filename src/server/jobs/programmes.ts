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
export function removeProgramme(server: ServerContext, programmeId: string, isRemoved: boolean): void {
  removeProgrammes(server, [programmeId], isRemoved);
}

/** The same of many: of all of them, or of none. */
export function removeProgrammes(
  { db, clock }: ServerContext,
  programmeIds: readonly string[],
  isRemoved: boolean,
): void {
  const ids = [...new Set(programmeIds)];
  db.transaction(
    (tx) => {
      const removedAtMs = isRemoved ? clock.now() : null;
      const { changes } = tx.update(programmes).set({ removedAtMs }).where(among(programmes.id, ids)).run();
      if (changes < ids.length) throw new AppError('not-found', { what: 'programme' });
    },
    { behavior: 'immediate' },
  );
}

/** Puts programmes into a group, or takes them out of theirs with null. */
export function groupProgrammes(
  { db }: ServerContext,
  programmeIds: readonly string[],
  groupName: string | null,
): void {
  db.update(programmes).set({ groupName }).where(among(programmes.id, programmeIds)).run();
}
