import { and, eq } from 'drizzle-orm';
import { DELIVERY_EVENTS, type DeliveryEvent } from '@/core/delivery/delivery-state';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { assemblies } from '../db/schema';
import { assemblyMessages as messages } from './messages';

/** Throws `not-found`. */
export function assemblyOf({ db }: Pick<ServerContext, 'db'>, assemblyId: string) {
  const row = db.select().from(assemblies).where(eq(assemblies.id, assemblyId)).get();
  if (!row) throw new AppError('not-found', { what: 'record' });
  return row;
}

/** Lets something happen to a record on its way, only where its state lets it. Returns whether it did. */
export function advanceAssembly(
  { db }: Pick<ServerContext, 'db'>,
  assemblyId: string,
  event: DeliveryEvent,
  change: Partial<Pick<typeof assemblies.$inferInsert, 'outcome' | 'writtenAtMs'>> = {},
): boolean {
  const { from, to } = DELIVERY_EVENTS[event];
  const { changes } = db
    .update(assemblies)
    .set({ ...change, state: to })
    .where(and(eq(assemblies.id, assemblyId), eq(assemblies.state, from)))
    .run();
  return changes === 1;
}

/** Has a record wait to be written again, whose writing had ended. Throws `bad-request` where another of its line-up is being written. */
export function reopenAssembly(server: Pick<ServerContext, 'db'>, assemblyId: string): void {
  const { lineUpId, state } = assemblyOf(server, assemblyId);
  const open = server.db
    .select({ id: assemblies.id })
    .from(assemblies)
    .where(and(eq(assemblies.lineUpId, lineUpId), eq(assemblies.state, 'open')))
    .get();
  if (state === 'ended' && open) throw new AppError('bad-request', { reason: messages.isBeingWritten });
  advanceAssembly(server, assemblyId, 'retried');
}
