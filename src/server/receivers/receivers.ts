import { randomBytes } from 'node:crypto';
import { and, asc, desc, eq, isNull, sql } from 'drizzle-orm';
import { slug } from '@/core/delivery/file-name';
import { AppError } from '@/core/errors/app-error';
import type { NewReceiver } from '@/core/receiver/receiver';
import type { ServerContext } from '../context';
import { receivers, simulatedIntakes } from '../db/schema';
import { checkUnchanged } from '../seen';
import { newReceiverSchema } from './new-receiver';
import type { Destination } from './transport';
import { transportOf } from './transports';

/** A receiver as pages see it: of its secret only that there is one. */
export interface ReceiverView {
  id: string;
  name: string;
  /** Of its transport, and what that is called. */
  kind: string;
  transportName: string;
  /** A folder of the data folder, and an address of this app, are told as such. */
  address: string;
  hasSecret: boolean;
  /** A simulated intake of this app stands at its other end. */
  isBuiltIn: boolean;
}

const BUILT_IN: readonly { id: string; name: string; kind: string; address: string }[] = [
  { id: 'network-desk', name: 'Network intake', kind: 'web-hook', address: '/api/intake/network-desk/hook' },
  { id: 'feed-folder', name: 'Feed drop folder', kind: 'drop-folder', address: 'intake/feed-folder' },
  { id: 'shop-store', name: 'The shop’s store', kind: 'put', address: '/api/intake/shop-store/objects' },
];

/** The receivers that this app brings along, each with a secret of its own that its intake knows too. */
export function keepReceivers({ db, clock }: Pick<ServerContext, 'db' | 'clock'>): void {
  db.transaction(
    (tx) => {
      for (const receiver of BUILT_IN) {
        if (tx.select().from(receivers).where(eq(receivers.id, receiver.id)).get()) continue;
        const secret = transportOf(receiver.kind).isSigned ? randomBytes(24).toString('hex') : '';
        tx.insert(receivers)
          .values({ ...receiver, secret, isBuiltIn: true, createdAtMs: clock.now() })
          .run();
        const conduct = { delaySeconds: 0, refusesAll: false, dropsLeft: 0 };
        tx.insert(simulatedIntakes).values({ id: receiver.id, secret, conduct }).run();
      }
    },
    { behavior: 'immediate' },
  );
}

/** The built-in ones first, then one's own, the oldest first. */
export function listReceivers({ db }: Pick<ServerContext, 'db'>): ReceiverView[] {
  return db
    .select()
    .from(receivers)
    .where(isNull(receivers.removedAtMs))
    .orderBy(desc(receivers.isBuiltIn), asc(sql`rowid`))
    .all()
    .map(viewReceiver);
}

function viewReceiver({ id, name, kind, address, secret, isBuiltIn }: typeof receivers.$inferSelect): ReceiverView {
  return { id, name, kind, transportName: transportOf(kind).name, address, hasSecret: secret !== '', isBuiltIn };
}

/** A receiver that may have been taken away since. Throws `not-found`. */
export function receiverOf({ db }: Pick<ServerContext, 'db'>, receiverId: string) {
  const row = db.select().from(receivers).where(eq(receivers.id, receiverId)).get();
  if (!row) throw new AppError('not-found', { what: 'receiver' });
  return row;
}

/** One that things can be sent to. Throws `not-found`. */
export function offeredReceiver(server: Pick<ServerContext, 'db'>, receiverId: string) {
  const row = receiverOf(server, receiverId);
  if (row.removedAtMs !== null) throw new AppError('not-found', { what: 'receiver' });
  return row;
}

/** Adds a receiver of one's own. Throws a ZodError that says what it lacks. */
export function addReceiver({ db, clock }: ServerContext, input: unknown): ReceiverView {
  const wanted = newReceiverSchema.parse(input);
  return db.transaction(
    (tx) => {
      const stem = slug(wanted.name) || 'receiver';
      let id = stem;
      for (let n = 2; tx.select().from(receivers).where(eq(receivers.id, id)).get(); n++) id = `${stem}-${n}`;
      const row = { ...wanted, id, isBuiltIn: false, createdAtMs: clock.now() };
      tx.insert(receivers).values(row).run();
      return viewReceiver({ ...row, removedAtMs: null });
    },
    { behavior: 'immediate' },
  );
}

/**
 * Changes a receiver of one's own; an empty secret leaves the one that is there. Throws `not-found`, `bad-request`, or `changed-elsewhere`
 * where what is changed is not what was seen.
 */
export function changeReceiver(
  server: ServerContext,
  receiverId: string,
  input: unknown,
  seen?: Partial<Omit<NewReceiver, 'secret'>>,
): void {
  const { secret, ...wanted } = newReceiverSchema.parse(input);
  const now = ownReceiver(server, receiverId);
  checkUnchanged({ title: now.name, now, wanted, seen });
  const change = secret === '' ? wanted : { ...wanted, secret };
  server.db.update(receivers).set(change).where(eq(receivers.id, receiverId)).run();
}

/** Offers a receiver no longer; what was sent to it is still told. Throws `not-found` or `bad-request`. */
export function removeReceiver(server: ServerContext, receiverId: string): void {
  ownReceiver(server, receiverId);
  const { db, clock } = server;
  db.update(receivers)
    .set({ removedAtMs: clock.now(), secret: '' })
    .where(and(eq(receivers.id, receiverId), isNull(receivers.removedAtMs)))
    .run();
}

function ownReceiver(server: ServerContext, receiverId: string): typeof receivers.$inferSelect {
  const row = offeredReceiver(server, receiverId);
  if (row.isBuiltIn) {
    throw new AppError('bad-request', { reason: 'a receiver that comes with the app stays as it is' });
  }
  return row;
}

/**
 * Where a receiver is in the end: what is this app's own is at its own address, and in its own folder. Undefined where this app
 * would have to be reached for it, and nobody serves it.
 */
export function destinationOf(
  { folder }: Pick<ServerContext, 'folder'>,
  { kind, address, secret, isBuiltIn }: typeof receivers.$inferSelect,
): Destination | undefined {
  const own = ownAddress();
  const { place, isFetchedFrom } = transportOf(kind);
  if (place === 'folder') return { address: isBuiltIn ? folder.within(address) : address, secret };
  if (own === undefined && (isBuiltIn || isFetchedFrom)) return undefined;
  return { address: isBuiltIn ? `${own}${address}` : address, secret };
}

/** Where this app answers; whoever serves it says so. */
export function ownAddress(): string | undefined {
  return process.env.OPSIMETER_URL;
}
