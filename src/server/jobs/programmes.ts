import { eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes } from '../db/schema';
import { checkUnchanged } from '../seen';

type Change = Partial<Pick<typeof programmes.$inferInsert, 'title' | 'note' | 'groupName'>>;

/**
 * Changes what a person calls a programme, notes of it, or counts it to: null for no group. Throws `not-found`, or `changed-elsewhere`
 * where what is changed is not what was seen.
 */
export function changeProgramme({ db }: ServerContext, programmeId: string, change: Change, seen?: Change): void {
  const now = db.select().from(programmes).where(eq(programmes.id, programmeId)).get();
  if (!now) throw new AppError('not-found', { what: 'programme' });
  checkUnchanged<Change>({ title: now.title, now, wanted: change, seen });
  if (Object.keys(change).length > 0) db.update(programmes).set(change).where(eq(programmes.id, programmeId)).run();
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
