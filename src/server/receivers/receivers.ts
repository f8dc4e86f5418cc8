import { randomBytes } from 'node:crypto';
import { and, asc, desc, eq, isNull, type SQLWrapper, sql } from 'drizzle-orm';
import { slug } from '@/core/delivery/file-name';
import { AppError } from '@/core/errors/app-error';
import type { NewReceiver } from '@/core/receiver/receiver';
import type { ServerContext } from '../context';
import { receivers, simulatedIntakes } from '../db/schema';
import { checkUnchanged } from '../seen';
import { isReallyWithin } from '../storage/within';
import { newReceiverSchema } from './new-receiver';
import type { Destination } from './transport';
import { transportOf } from './transports';
import { dropFolders } from './transports/drop-folder';

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

/**
 * The receivers that this app brings along, each with a secret of its own that its intake knows too. Where the key of secrets is another one than
 * it was, they are given new ones; what earlier versions stored as it is, is sealed.
 */
export function keepReceivers({ db, clock, secrets }: Pick<ServerContext, 'db' | 'clock' | 'secrets'>): void {
  const wasPlain = db.transaction(
    (tx) => {
      const plain = tx.select().from(receivers).where(isPlain(receivers.secret)).all();
      for (const { id, secret } of plain) {
        tx.update(receivers)
          .set({ secret: secrets.seal(secret) })
          .where(eq(receivers.id, id))
          .run();
      }
      const known = tx.select().from(simulatedIntakes).where(isPlain(simulatedIntakes.secret)).all();
      for (const { id, secret } of known) {
        tx.update(simulatedIntakes)
          .set({ secret: secrets.seal(secret) })
          .where(eq(simulatedIntakes.id, id))
          .run();
      }
      for (const receiver of BUILT_IN) {
        const { isSigned } = transportOf(receiver.kind);
        const there = tx.select().from(receivers).where(eq(receivers.id, receiver.id)).get();
        if (there && (!isSigned || secrets.open(there.secret) !== undefined)) continue;
        const secret = isSigned ? secrets.seal(randomBytes(24).toString('hex')) : '';
        tx.insert(receivers)
          .values({ ...receiver, secret, isBuiltIn: true, createdAtMs: clock.now() })
          .onConflictDoUpdate({ target: receivers.id, set: { secret } })
          .run();
        const conduct = { delaySeconds: 0, refusesAll: false, dropsLeft: 0 };
        tx.insert(simulatedIntakes)
          .values({ id: receiver.id, secret, conduct })
          .onConflictDoUpdate({ target: simulatedIntakes.id, set: { secret } })
          .run();
      }
      return plain.length + known.length > 0;
    },
    { behavior: 'immediate' },
  );
  // What they were is in no page of the file any more, and in no log beside it.
  if (wasPlain) {
    db.$client.exec('VACUUM');
    db.$client.pragma('wal_checkpoint(TRUNCATE)');
  }
}

function isPlain(secret: SQLWrapper) {
  return sql`${secret} <> '' AND ${secret} NOT LIKE 'sealed:%'`;
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
export function addReceiver({ db, clock, secrets }: ServerContext, input: unknown): ReceiverView {
  const wanted = newReceiverSchema.parse(input);
  return db.transaction(
    (tx) => {
      const stem = slug(wanted.name) || 'receiver';
      let id = stem;
      for (let n = 2; tx.select().from(receivers).where(eq(receivers.id, id)).get(); n++) id = `${stem}-${n}`;
      const secret = wanted.secret && secrets.seal(wanted.secret);
      const row = { ...wanted, secret, id, isBuiltIn: false, createdAtMs: clock.now() };
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
  const change = secret === '' ? wanted : { ...wanted, secret: server.secrets.seal(secret) };
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
 * would have to be reached for it, and nobody serves it. Throws `secret-unreadable`, or `outside-drop-folders`.
 */
export async function destinationOf(
  { folder, secrets }: Pick<ServerContext, 'folder' | 'secrets'>,
  { name, kind, address, secret: sealed, isBuiltIn }: typeof receivers.$inferSelect,
): Promise<Destination | undefined> {
  const own = ownAddress();
  const { place, isFetchedFrom } = transportOf(kind);
  const secret = sealed && secrets.open(sealed);
  if (secret === undefined) throw new AppError('secret-unreadable', { name });
  if (place === 'folder') {
    if (isBuiltIn) return { address: folder.within(address), secret };
    if (await isReallyWithin(address, dropFolders())) return { address, secret };
    throw new AppError('outside-drop-folders', { path: address });
  }
  if (own === undefined && (isBuiltIn || isFetchedFrom)) return undefined;
  return { address: isBuiltIn ? `${own}${address}` : address, secret };
}

/** Where receivers outside of this process reach this app. */
export function publicAddress(): string | undefined {
  return process.env.OPSIMETER_PUBLIC_URL || ownAddress();
}

/** Where this app answers; whoever serves it says so. */
export function ownAddress(): string | undefined {
  return process.env.OPSIMETER_URL;
}
