import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { and, desc, eq } from 'drizzle-orm';
import { AppError, isAppError } from '@/core/errors/app-error';
import type { Manifest, ReceiverAnswer } from '@/core/receiver/manifest';
import { askAgainMs, backOffMs, MOST_TRIES } from '@/core/receiver/retry';
import { formatNumber } from '@/core/units/format';
import { certificateOf } from '../certificates/certificate';
import type { ServerContext } from '../context';
import { deliveries, deliveryRows, receivers, transferLog, transfers } from '../db/schema';
import { checkIntact } from '../deliveries/intact';
import { newId } from '../ids';
import { Later, type TaskContext } from '../tasks/runner';
import { transfersMessages as messages } from './messages';
import { destinationOf, offeredReceiver, ownAddress, publicAddress, receiverOf } from './receivers';
import type { TransferFiles, TransportContext } from './transport';
import { transportOf } from './transports';

/** An app that nobody serves can not be fetched from; it looks again after so long. */
const NOT_SERVED_MS = 2000;

type Transfer = typeof transfers.$inferSelect;

/** Has a delivery sent, as `queueSending`. Throws `bad-request` where its receiver has it already. */
export function sendDelivery(server: ServerContext, deliveryId: string, receiverId: string): string {
  const transferId = queueTransfer(server, deliveryId, receiverId);
  if (transferId === undefined) {
    const { name } = receiverOf(server, receiverId);
    throw new AppError('bad-request', { reason: messages.alreadyThere(name) });
  }
  server.runner.wake();
  return transferId;
}

/**
 * Has a delivery sent, once: where it is on its way, that transfer is meant. After a refusal another round begins.
 *
 * @returns the transfer; undefined where it has been accepted
 * @throws AppError `not-found`, or `bad-request` where the delivery misses its spec and nobody has accepted that
 */
function queueTransfer(server: ServerContext, deliveryId: string, receiverId: string): string | undefined {
  const { db, queue, clock } = server;
  offeredReceiver(server, receiverId);
  return db.transaction(
    (tx) => {
      const delivery = tx.select().from(deliveries).where(eq(deliveries.id, deliveryId)).get();
      if (!delivery || delivery.writtenAtMs === null || delivery.discardedAtMs !== null) {
        throw new AppError('not-found', { what: 'delivery' });
      }
      if (!delivery.verdict?.inside && delivery.acceptedReason === null) {
        throw new AppError('bad-request', { reason: messages.missesItsSpec });
      }
      const last = tx
        .select()
        .from(transfers)
        .where(and(eq(transfers.deliveryId, deliveryId), eq(transfers.receiverId, receiverId)))
        .orderBy(desc(transfers.round))
        .get();
      if (last?.state === 'accepted') return undefined;
      if (last && last.state !== 'refused') {
        tx.update(transfers).set({ failedTries: 0 }).where(eq(transfers.id, last.id)).run();
        queue.enqueue('send', last.id);
        return last.id;
      }
      const round = (last?.round ?? 0) + 1;
      const id = newId();
      tx.insert(transfers)
        .values({
          id,
          deliveryId,
          receiverId,
          round,
          state: 'open',
          reasons: [],
          failedTries: 0,
          key: createHash('sha256').update(`${deliveryId}\n${receiverId}\n${round}`).digest('hex').slice(0, 40),
          fetchToken: randomBytes(24).toString('hex'),
          createdAtMs: clock.now(),
        })
        .run();
      queue.enqueue('send', id);
      return id;
    },
    { behavior: 'immediate' },
  );
}

/**
 * Has a delivery sent to where its row says, if it says so and that receiver is still there. Call it within the transaction that
 * makes the delivery one that may be sent, and wake the runner afterwards.
 */
export function sendAsAsked(server: ServerContext, deliveryId: string): void {
  const row = server.db
    .select({ receiverId: deliveryRows.receiverId, removedAtMs: receivers.removedAtMs })
    .from(deliveries)
    .innerJoin(deliveryRows, eq(deliveryRows.id, deliveries.rowId))
    .innerJoin(receivers, eq(receivers.id, deliveryRows.receiverId))
    .where(eq(deliveries.id, deliveryId))
    .get();
  if (row?.receiverId && row.removedAtMs === null) queueTransfer(server, deliveryId, row.receiverId);
}

/**
 * Brings a delivery to its receiver and asks for the answer. Each call goes on from where the last one came to, whoever ended
 * that; it is called again later while the receiver can not be reached or has not answered.
 */
export async function performTransfer(server: ServerContext, transferId: string, context: TaskContext): Promise<void> {
  const { clock } = server;
  let transfer = transferOf(server, transferId);
  if (transfer.state === 'accepted' || transfer.state === 'refused') return;
  const receiver = receiverOf(server, transfer.receiverId);
  const transport = transportOf(receiver.kind);
  const note = (text: string) => noteOn(server, transferId, text);
  const set = (change: Partial<Transfer>) => {
    server.db.update(transfers).set(change).where(eq(transfers.id, transferId)).run();
    transfer = { ...transfer, ...change };
  };
  const end = ({ state, reasons }: Pick<ReceiverAnswer, 'state' | 'reasons'>) => {
    if (state === 'received') return;
    note(state === 'accepted' ? 'accepted' : `refused: ${reasons.join('; ')}`);
    set({ state, reasons, endedAtMs: clock.now() });
  };
  try {
    if (receiver.removedAtMs !== null) throw new AppError('receiver-refuses', { reason: messages.removedHere });
    const to = await destinationOf(server, receiver);
    if (!to) throw new Later(NOT_SERVED_MS);
    if (transfer.state === 'open') await checkIntact(server, transfer.deliveryId);
    const base = receiver.isBuiltIn ? ownAddress() : publicAddress();
    const files = filesOf(server, transfer, transport.isFetchedFrom ? base : undefined);
    const transportContext = contextOf(files, context, clock);
    if (transfer.state === 'open') {
      note(transfer.failedTries === 0 ? messages.sendingTo(receiver.name) : `attempt ${transfer.failedTries + 1}`);
      await transport.transfer(to, files, transportContext);
      set({ state: 'checking', failedTries: 0, receivedAtMs: clock.now() });
      note(messages.received);
    }
    const answer = await transport.answer(to, transfer.key, transportContext);
    if (!answer) {
      note(messages.sentAgain);
      set({ state: 'open', receivedAtMs: null });
      throw new Later(0);
    }
    if (transfer.failedTries > 0) set({ failedTries: 0 });
    if (answer.state === 'received') throw new Later(askAgainMs(clock.now() - (transfer.receivedAtMs ?? clock.now())));
    end(answer);
  } catch (error) {
    if (isAppError(error, 'receiver-refuses')) {
      end({ state: 'refused', reasons: [(error as AppError<'receiver-refuses'>).details.reason] });
      return;
    }
    if (!isAppError(error, 'receiver-unreached')) throw error;
    const { reason } = (error as AppError<'receiver-unreached'>).details;
    const tries = transfer.failedTries + 1;
    set({ failedTries: tries });
    if (tries >= MOST_TRIES) {
      note(messages.givenUp(reason, tries));
      throw new AppError('not-sent', { name: receiver.name, tries, reason }, { cause: error });
    }
    const waitMs = backOffMs(tries, Math.random());
    note(messages.retrying(reason, formatNumber(waitMs / 1000, 0)));
    throw new Later(waitMs);
  }
}

/** The files of a delivery that a receiver is sent. Throws `not-found` once it was discarded. */
function filesOf(
  server: ServerContext,
  { key, deliveryId, id, fetchToken }: Transfer,
  fetchedFrom: string | undefined,
): TransferFiles {
  const certificate = certificateOf(server, deliveryId);
  const delivery = server.db.select().from(deliveries).where(eq(deliveries.id, deliveryId)).get();
  if (!delivery) throw new AppError('not-found', { what: 'delivery' });
  const files: Manifest['files'] = certificate.files.map(({ fileName, sizeBytes, sha256 }, i) => ({
    fileName,
    sizeBytes,
    sha256,
    link: fetchedFrom === undefined ? null : `${fetchedFrom}/api/transfers/${id}/files/${i}?token=${fetchToken}`,
  }));
  return {
    // The day of its issue would make it another one each time.
    manifest: {
      manifest: 'opsimeter',
      version: 1,
      key,
      files,
      certificate: { ...certificate, issuedAt: certificate.writtenAt },
    },
    paths: files.map(({ fileName }) => server.folder.delivery(delivery.jobId, fileName)),
  };
}

function contextOf(
  { manifest }: TransferFiles,
  { signal, onProgress }: TaskContext,
  clock: ServerContext['clock'],
): TransportContext {
  const all = manifest.files.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0);
  let toldAtMs = 0;
  return {
    signal,
    clock,
    onBytes: (bytes) => {
      const now = clock.now();
      if (bytes < all && now - toldAtMs < 100) return;
      toldAtMs = now;
      onProgress({ fraction: Math.min(1, bytes / all), timesRealTime: null });
    },
  };
}

function transferOf({ db }: ServerContext, transferId: string): Transfer {
  const row = db.select().from(transfers).where(eq(transfers.id, transferId)).get();
  if (!row) throw new AppError('not-found', { what: 'transfer' });
  return row;
}

function noteOn({ db, clock }: ServerContext, transferId: string, text: string): void {
  db.insert(transferLog).values({ transferId, atMs: clock.now(), text }).run();
}

/**
 * The file that a receiver fetches. Throws `not-found` also where the token is not the one of this transfer: who has not been
 * told of it does not learn that there is one.
 */
export function fetchedFile(server: ServerContext, transferId: string, token: string): { deliveryId: string } {
  const { fetchToken, deliveryId } = transferOf(server, transferId);
  const [own, given] = [fetchToken, token].map((text) => createHash('sha256').update(text).digest());
  if (!timingSafeEqual(own as Buffer, given as Buffer)) throw new AppError('not-found', { what: 'transfer' });
  return { deliveryId };
}
