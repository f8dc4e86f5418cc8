import { rm } from 'node:fs/promises';
import { and, eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { deliveries } from '../db/schema';
import { note } from '../people/people';
import { sendAsAsked } from '../receivers/transfers';
import { advanceDeliveries, advanceDelivery, deliveryRecord, fileNamesOf } from './delivery-record';
import { decideMessages as messages } from './messages';

type Delivery = typeof deliveries.$inferSelect;

/** A written delivery that misses its spec and was not thrown away. Throws `not-found` or `bad-request`. */
export function missedDelivery(server: ServerContext, deliveryId: string): Delivery {
  const { deliveries: delivery } = deliveryRecord(server, deliveryId);
  if (delivery.state !== 'written' || !delivery.verdict || delivery.verdict.inside) {
    throw new AppError('bad-request', { reason: messages.nothingToDecide });
  }
  return delivery;
}

/** Hands a file over although it misses, for a reason that stays with it; it is sent then, if its row says where to. */
export function acceptDelivery(server: ServerContext, deliveryId: string, reason: string, who = ''): void {
  server.db.transaction(
    () => {
      missedDelivery(server, deliveryId);
      advanceDelivery(server, deliveryId, 'accepted', { acceptedReason: reason, acceptedBy: who || null });
      if (who) note(server, who, 'file accepted', deliveryRecord(server, deliveryId).deliveries.fileName);
      sendAsAsked(server, deliveryId);
    },
    { behavior: 'immediate' },
  );
  server.runner.wake();
}

/**
 * Approves a verified file, as whoever has signed in: its certificate says so from then on. Throws `not-found`, `not-signed-in` where nobody has,
 * or `bad-request` where there is no such file.
 */
export function approveDelivery(server: ServerContext, deliveryId: string, who: string): void {
  if (who === '') throw new AppError('not-signed-in', {});
  const { deliveries: delivery } = deliveryRecord(server, deliveryId);
  const isHandedOver = delivery.state === 'written' && (delivery.verdict?.inside || delivery.acceptedReason !== null);
  if (!isHandedOver) throw new AppError('bad-request', { reason: messages.nothingToApprove });
  server.db.transaction(
    (tx) => {
      const approval = { approvedBy: who, approvedAtMs: server.clock.now() };
      tx.update(deliveries).set(approval).where(eq(deliveries.id, deliveryId)).run();
      note(server, who, 'file approved', delivery.fileName);
    },
    { behavior: 'immediate' },
  );
}

/** Throws a file that misses away; what was measured of it stays. */
export async function discardDelivery(server: ServerContext, deliveryId: string): Promise<void> {
  const delivery = missedDelivery(server, deliveryId);
  markDiscarded(server, [deliveryId]);
  await removeFiles(server, delivery);
}

/** Throws files that miss away, all at once. What is none any more stays what it is. */
export async function discardDeliveries(server: ServerContext, deliveryIds: readonly string[]): Promise<void> {
  const discarded = server.db.transaction(
    (tx) => {
      const misses = tx
        .select()
        .from(deliveries)
        .where(and(among(deliveries.id, deliveryIds), eq(deliveries.state, 'written')))
        .all()
        .filter(({ verdict }) => verdict && !verdict.inside);
      markDiscarded(
        server,
        misses.map(({ id }) => id),
      );
      return misses;
    },
    { behavior: 'immediate' },
  );
  for (const delivery of discarded) await removeFiles(server, delivery);
}

/** Says that a delivery's file is thrown away. It goes afterwards: what is left then by a crash goes at the next start. */
export function markDiscarded(server: Pick<ServerContext, 'db' | 'clock'>, deliveryIds: readonly string[]): void {
  advanceDeliveries(server, deliveryIds, 'discarded', { discardedAtMs: server.clock.now(), acceptedReason: null });
}

/** Removes the files of a delivery that was discarded. */
export async function removeFiles(
  { folder }: Pick<ServerContext, 'folder'>,
  delivery: Pick<Delivery, 'jobId' | 'fileName' | 'outcome'>,
): Promise<void> {
  for (const fileName of fileNamesOf(delivery)) await rm(folder.delivery(delivery.jobId, fileName), { force: true });
}
