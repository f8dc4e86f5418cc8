import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { and, asc, desc, eq, inArray, type SQL } from 'drizzle-orm';
import { AppError, isAppError } from '@/core/errors/app-error';
import type { Manifest, ReceiverAnswer } from '@/core/receiver/manifest';
import { askAgainMs, backOffMs, MOST_TRIES } from '@/core/receiver/retry';
import { formatNumber } from '@/core/units/format';
import { certificateOf } from '../certificates/certificate';
import type { ServerContext } from '../context';
import { deliveries, deliveryLines, receivers, type SENDING_STATES, sendingLog, sendings } from '../db/schema';
import { checkIntact } from '../deliveries/intact';
import { newId } from '../ids';
import { Later, type TaskContext } from '../tasks/runner';
import { type TaskView, taskView } from '../tasks/view';
import { destinationOf, offeredReceiver, ownAddress, receiverOf } from './receivers';
import type { Parcel, TransportContext } from './transport';
import { TRANSPORTS } from './transports';

/** An app that nobody serves can not be fetched from; it looks again after so long. */
const NOT_SERVED_MS = 2000;

type Sending = typeof sendings.$inferSelect;

/** A delivery on its way, as a page shows it. */
export interface SendingView {
  id: string;
  deliveryId: string;
  receiverId: string;
  receiverName: string;
  state: (typeof SENDING_STATES)[number];
  /** Why it was refused. */
  reasons: string[];
  failedTries: number;
  task: TaskView | null;
  log: { atMs: number; text: string }[];
}

/** Has a delivery sent, as `queueSending`. Throws `bad-request` where its receiver has it already. */
export function sendDelivery(server: ServerContext, deliveryId: string, receiverId: string): string {
  const sendingId = queueSending(server, deliveryId, receiverId);
  if (sendingId === undefined) {
    const { name } = receiverOf(server, receiverId);
    throw new AppError('bad-request', { reason: `${name} has it already, and nothing is sent twice` });
  }
  server.runner.wake();
  return sendingId;
}

/**
 * Has a delivery sent, once: where it is on its way, that sending is meant. After a refusal another round begins.
 *
 * @returns the sending; undefined where it has been accepted
 * @throws AppError `not-found`, or `bad-request` where the delivery misses its spec and nobody has accepted that
 */
function queueSending(server: ServerContext, deliveryId: string, receiverId: string): string | undefined {
  const { db, queue, clock } = server;
  offeredReceiver(server, receiverId);
  return db.transaction(
    (tx) => {
      const delivery = tx.select().from(deliveries).where(eq(deliveries.id, deliveryId)).get();
      if (!delivery || delivery.writtenAtMs === null || delivery.discardedAtMs !== null) {
        throw new AppError('not-found', { what: 'delivery' });
      }
      if (!delivery.verdict?.inside && delivery.acceptedReason === null) {
        throw new AppError('bad-request', { reason: 'a file that misses its spec is accepted with a reason first' });
      }
      const last = tx
        .select()
        .from(sendings)
        .where(and(eq(sendings.deliveryId, deliveryId), eq(sendings.receiverId, receiverId)))
        .orderBy(desc(sendings.round))
        .get();
      if (last?.state === 'accepted') return undefined;
      if (last && last.state !== 'refused') {
        tx.update(sendings).set({ failedTries: 0 }).where(eq(sendings.id, last.id)).run();
        queue.enqueue('send', last.id);
        return last.id;
      }
      const round = (last?.round ?? 0) + 1;
      const id = newId();
      tx.insert(sendings)
        .values({
          ...{ id, deliveryId, receiverId, round, state: 'open', reasons: [], failedTries: 0 },
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
    .select({ receiverId: deliveryLines.receiverId, removedAtMs: receivers.removedAtMs })
    .from(deliveries)
    .innerJoin(deliveryLines, eq(deliveryLines.id, deliveries.lineId))
    .innerJoin(receivers, eq(receivers.id, deliveryLines.receiverId))
    .where(eq(deliveries.id, deliveryId))
    .get();
  if (row?.receiverId && row.removedAtMs === null) queueSending(server, deliveryId, row.receiverId);
}

/**
 * Brings a delivery to its receiver and asks for the answer. Each call goes on from where the last one came to, whoever ended
 * that; it is called again later while the receiver can not be reached or has not answered.
 */
export async function performSending(server: ServerContext, sendingId: string, context: TaskContext): Promise<void> {
  const { clock } = server;
  let sending = sendingOf(server, sendingId);
  if (sending.state === 'accepted' || sending.state === 'refused') return;
  const receiver = receiverOf(server, sending.receiverId);
  const transport = TRANSPORTS[receiver.kind];
  const note = (text: string) => noteOn(server, sendingId, text);
  const set = (change: Partial<Sending>) => {
    server.db.update(sendings).set(change).where(eq(sendings.id, sendingId)).run();
    sending = { ...sending, ...change };
  };
  const end = ({ state, reasons }: Pick<ReceiverAnswer, 'state' | 'reasons'>) => {
    if (state === 'received') return;
    note(state === 'accepted' ? 'accepted' : `refused: ${reasons.join('; ')}`);
    set({ state, reasons, endedAtMs: clock.now() });
  };
  try {
    if (receiver.removedAtMs !== null)
      throw new AppError('receiver-refuses', { reason: 'it has been taken away here' });
    const to = destinationOf(server, receiver);
    if (!to) throw new Later(NOT_SERVED_MS);
    if (sending.state === 'open') await checkIntact(server, sending.deliveryId);
    const parcel = parcelOf(server, sending, receiver.kind === 'web-hook');
    const transportContext = contextOf(parcel, context, clock);
    if (sending.state === 'open') {
      note(sending.failedTries === 0 ? `goes to ${receiver.name}` : `try ${sending.failedTries + 1}`);
      await transport.bring(to, parcel, transportContext);
      set({ state: 'checking', failedTries: 0, receivedAtMs: clock.now() });
      note('it is there whole, and waits for its answer');
    }
    const answer = await transport.answer(to, sending.key, transportContext);
    if (!answer) {
      note('the receiver does not know of it any more, and is sent it again');
      set({ state: 'open', receivedAtMs: null });
      throw new Later(0);
    }
    if (sending.failedTries > 0) set({ failedTries: 0 });
    if (answer.state === 'received') throw new Later(askAgainMs(clock.now() - (sending.receivedAtMs ?? clock.now())));
    end(answer);
  } catch (error) {
    if (isAppError(error, 'receiver-refuses')) {
      end({ state: 'refused', reasons: [(error as AppError<'receiver-refuses'>).details.reason] });
      return;
    }
    if (!isAppError(error, 'receiver-unreached')) throw error;
    const { reason } = (error as AppError<'receiver-unreached'>).details;
    const tries = sending.failedTries + 1;
    set({ failedTries: tries });
    if (tries >= MOST_TRIES) {
      note(`${reason}: given up after ${tries} tries`);
      throw new AppError('not-sent', { name: receiver.name, tries, reason }, { cause: error });
    }
    const waitMs = backOffMs(tries);
    note(`${reason}; tried again in ${formatNumber(waitMs / 1000, 0)} s`);
    throw new Later(waitMs);
  }
}

/** What a receiver is to have of a delivery. Throws `not-found` once it was thrown away. */
function parcelOf(server: ServerContext, { key, deliveryId, id, fetchToken }: Sending, isFetched: boolean): Parcel {
  const certificate = certificateOf(server, deliveryId);
  const delivery = server.db.select().from(deliveries).where(eq(deliveries.id, deliveryId)).get();
  if (!delivery) throw new AppError('not-found', { what: 'delivery' });
  const files: Manifest['files'] = certificate.files.map(({ fileName, sizeBytes, sha256 }, i) => ({
    ...{ fileName, sizeBytes, sha256 },
    link: isFetched ? `${ownAddress()}/api/sendings/${id}/files/${i}?token=${fetchToken}` : null,
  }));
  return {
    // The day of its issue would make it another one each time.
    manifest: {
      ...{ manifest: 'opsimeter', version: 1, key, files },
      certificate: { ...certificate, issuedAt: certificate.writtenAt },
    },
    paths: files.map(({ fileName }) => server.folder.delivery(delivery.jobId, fileName)),
  };
}

function contextOf(
  parcel: Parcel,
  { signal, onProgress }: TaskContext,
  clock: ServerContext['clock'],
): TransportContext {
  const all = parcel.manifest.files.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0);
  let toldAtMs = 0;
  return {
    ...{ signal, clock },
    onBytes: (bytes) => {
      const now = clock.now();
      if (bytes < all && now - toldAtMs < 100) return;
      toldAtMs = now;
      onProgress({ fraction: Math.min(1, bytes / all), timesRealTime: null });
    },
  };
}

function sendingOf({ db }: ServerContext, sendingId: string): Sending {
  const row = db.select().from(sendings).where(eq(sendings.id, sendingId)).get();
  if (!row) throw new AppError('not-found', { what: 'sending' });
  return row;
}

function noteOn({ db, clock }: ServerContext, sendingId: string, text: string): void {
  db.insert(sendingLog).values({ sendingId, atMs: clock.now(), text }).run();
}

/**
 * The file that a receiver fetches. Throws `not-found` also where the token is not the one of this sending: who has not been
 * told of it does not learn that there is one.
 */
export function fetchedFile(server: ServerContext, sendingId: string, token: string): { deliveryId: string } {
  const { fetchToken, deliveryId } = sendingOf(server, sendingId);
  const [own, given] = [fetchToken, token].map((text) => createHash('sha256').update(text).digest());
  if (!timingSafeEqual(own as Buffer, given as Buffer)) throw new AppError('not-found', { what: 'sending' });
  return { deliveryId };
}

/** A sending by itself. Throws `not-found`. */
export function viewSending(server: ServerContext, sendingId: string): SendingView {
  const [view] = sendingViews(server, eq(sendings.id, sendingId));
  if (!view) throw new AppError('not-found', { what: 'sending' });
  return view;
}

/** The newest sending of each delivery to each receiver, by both; its log begins with those of the rounds before. */
export function viewSendings(server: ServerContext, deliveryIds: readonly string[]): Map<string, SendingView> {
  const views = new Map<string, SendingView>();
  for (const view of sendingViews(server, inArray(sendings.deliveryId, [...deliveryIds]))) {
    const key = sendingKeyOf(view.deliveryId, view.receiverId);
    views.set(key, { ...view, log: [...(views.get(key)?.log ?? []), ...view.log] });
  }
  return views;
}

/** In the order of their rounds. */
function sendingViews({ db, queue }: ServerContext, which: SQL): SendingView[] {
  const rows = db
    .select()
    .from(sendings)
    .innerJoin(receivers, eq(receivers.id, sendings.receiverId))
    .where(which)
    .orderBy(asc(sendings.round))
    .all();
  const ids = rows.map((row) => row.sendings.id);
  const tasksOf = queue.latest('send', ids);
  const logged = db
    .select()
    .from(sendingLog)
    .where(inArray(sendingLog.sendingId, ids))
    .orderBy(asc(sendingLog.id))
    .all();
  return rows.map(({ sendings: sending, receivers: receiver }) => {
    const { id, deliveryId, receiverId, state, reasons, failedTries } = sending;
    const task = tasksOf.get(id);
    const log = logged.filter(({ sendingId }) => sendingId === id).map(({ atMs, text }) => ({ atMs, text }));
    return {
      ...{ id, deliveryId, receiverId, receiverName: receiver.name, state, reasons, failedTries, log },
      task: task ? taskView(task) : null,
    };
  });
}

export function sendingKeyOf(deliveryId: string, receiverId: string): string {
  return `${deliveryId} ${receiverId}`;
}

/** Something that a receiver was sent. */
export type SentView = Pick<Sending, 'id' | 'state' | 'reasons'> & {
  fileName: string;
  jobId: string;
  programmeId: string;
  atMs: number;
};

const MOST_SHOWN = 30;

/** What a receiver was sent, the newest first. */
export function sentTo(server: ServerContext, receiverId: string): SentView[] {
  return server.db
    .select({
      id: sendings.id,
      fileName: deliveries.fileName,
      jobId: deliveries.jobId,
      programmeId: deliveries.programmeId,
      state: sendings.state,
      reasons: sendings.reasons,
      atMs: sendings.createdAtMs,
    })
    .from(sendings)
    .innerJoin(deliveries, eq(deliveries.id, sendings.deliveryId))
    .where(eq(sendings.receiverId, receiverId))
    .orderBy(desc(sendings.createdAtMs))
    .limit(MOST_SHOWN)
    .all();
}
