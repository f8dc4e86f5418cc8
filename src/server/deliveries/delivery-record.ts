import { and, eq, sql } from 'drizzle-orm';
import { DELIVERY_EVENTS, type DeliveryEvent } from '@/core/delivery/delivery-state';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { deliveries, programmes, sources, treatments } from '../db/schema';
import { deliveryRecordMessages as messages } from './messages';

/** What a delivery was made from: its programme may have another source by now. */
export const sourceOfDelivery = sql<string>`coalesce(${deliveries.sourceSha256}, ${programmes.sourceSha256})`;

/** A delivery, with everything that it is written from. */
export function deliveryRecord({ db }: ServerContext, deliveryId: string) {
  const row = db
    .select()
    .from(deliveries)
    .innerJoin(programmes, eq(programmes.id, deliveries.programmeId))
    .innerJoin(sources, eq(sources.sha256, sourceOfDelivery))
    .innerJoin(treatments, eq(treatments.id, deliveries.treatmentId))
    .where(eq(deliveries.id, deliveryId))
    .get();
  if (!row) throw new AppError('not-found', { what: 'delivery' });
  return row;
}

/** A written delivery whose file is there. Throws `not-found` of any other. */
export function writtenDelivery({ db }: Pick<ServerContext, 'db'>, deliveryId: string) {
  const delivery = db
    .select()
    .from(deliveries)
    .where(and(eq(deliveries.id, deliveryId), eq(deliveries.state, 'written')))
    .get();
  if (!delivery) throw new AppError('not-found', { what: 'delivery' });
  return delivery;
}

/** The files that a delivery is made of: those that were written, or the one that is to be. */
export function fileNamesOf({
  fileName,
  outcome,
}: Pick<typeof deliveries.$inferSelect, 'fileName' | 'outcome'>): string[] {
  return outcome?.files.map((file) => file.fileName) ?? [fileName];
}

/** What is set together with a delivery's state. */
type Change = Partial<Omit<typeof deliveries.$inferInsert, 'id' | 'state'>>;

/**
 * Lets something happen to a delivery, together with what is set by it: in one statement, and only where its state lets it.
 *
 * @returns whether it did
 */
export function advanceDelivery(
  { db }: Pick<ServerContext, 'db'>,
  deliveryId: string,
  event: DeliveryEvent,
  change: Change = {},
): boolean {
  return advanceDeliveries({ db }, [deliveryId], event, change) === 1;
}

/** The same for many; returns how many it did. */
export function advanceDeliveries(
  { db }: Pick<ServerContext, 'db'>,
  deliveryIds: readonly string[],
  event: DeliveryEvent,
  change: Change = {},
): number {
  const { from, to } = DELIVERY_EVENTS[event];
  return db
    .update(deliveries)
    .set({ ...change, state: to })
    .where(and(among(deliveries.id, deliveryIds), eq(deliveries.state, from)))
    .run().changes;
}

/**
 * Has a delivery wait for its file again, whose writing had ended.
 *
 * @throws AppError `bad-request` where its row has another one that is being written
 */
export function reopenDelivery(server: Pick<ServerContext, 'db'>, deliveryId: string): void {
  const { db } = server;
  const delivery = db.select().from(deliveries).where(eq(deliveries.id, deliveryId)).get();
  const isBusy =
    delivery?.state === 'ended' &&
    delivery.rowId !== null &&
    db
      .select({ id: deliveries.id })
      .from(deliveries)
      .where(and(eq(deliveries.rowId, delivery.rowId), eq(deliveries.state, 'open')))
      .get() !== undefined;
  if (isBusy) throw new AppError('bad-request', { reason: messages.isBeingWritten });
  advanceDelivery(server, deliveryId, 'retried');
}
