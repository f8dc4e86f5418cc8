import { rm } from 'node:fs/promises';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import type { deliveries } from '../db/schema';
import { sendAsAsked } from '../receivers/transfers';
import { advanceDelivery, deliveryRecord, fileNamesOf } from './delivery-record';
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
export function acceptDelivery(server: ServerContext, deliveryId: string, reason: string): void {
  server.db.transaction(
    () => {
      missedDelivery(server, deliveryId);
      advanceDelivery(server, deliveryId, 'accepted', { acceptedReason: reason });
      sendAsAsked(server, deliveryId);
    },
    { behavior: 'immediate' },
  );
  server.runner.wake();
}

/** Throws a file that misses away; what was measured of it stays. */
export async function discardDelivery(server: ServerContext, deliveryId: string): Promise<void> {
  const delivery = missedDelivery(server, deliveryId);
  markDiscarded(server, deliveryId);
  await removeFiles(server, delivery);
}

/** Says that a delivery's file is thrown away. It goes afterwards: what is left then by a crash goes at the next start. */
export function markDiscarded(server: Pick<ServerContext, 'db' | 'clock'>, deliveryId: string): void {
  advanceDelivery(server, deliveryId, 'discarded', { discardedAtMs: server.clock.now(), acceptedReason: null });
}

/** Removes the files of a delivery that was discarded. */
export async function removeFiles(
  { folder }: Pick<ServerContext, 'folder'>,
  delivery: Pick<Delivery, 'jobId' | 'fileName' | 'outcome'>,
): Promise<void> {
  for (const fileName of fileNamesOf(delivery)) await rm(folder.delivery(delivery.jobId, fileName), { force: true });
}
