import { and, asc, eq, isNull } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import {
  type LineUpFields,
  lineUpChange,
  lineUpFields,
  type Member,
  type RecordSettings,
  USUAL_RECORD,
} from '@/core/lineup/line-up';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import type { Db } from '../db/client';
import { lineUpMembers, lineUps, programmes } from '../db/schema';
import { newId } from '../ids';
import { jobOf } from '../jobs/jobs';
import { checkUnchanged, type Some } from '../seen';
import { specNamed } from '../specs/specs';
import { lineUpMessages as messages } from './messages';

/** A line-up as it is kept. */
export type LineUpView = LineUpFields & { id: string; jobId: string };

type Tx = Parameters<Parameters<Db['transaction']>[0]>[0];

/** The line-ups of a job, in the order in which they were made. Throws `not-found`. */
export function listLineUps(server: ServerContext, jobId: string): LineUpView[] {
  jobOf(server, jobId);
  const { db } = server;
  const rows = db
    .select()
    .from(lineUps)
    .where(and(eq(lineUps.jobId, jobId), isNull(lineUps.removedAtMs)))
    .orderBy(asc(lineUps.createdAtMs))
    .all();
  const members = membersOf(
    server,
    rows.map(({ id }) => id),
  );
  return rows.map((row) => viewOf(row, members.get(row.id)));
}

/** Where programmes of a job stand in its line-ups. */
export type PlaceInLineUp = Pick<LineUpView, 'name' | 'kind'> & {
  /** Counted from 1. */
  place: number;
  of: number;
};

/** Where each programme of a job stands in its line-ups. Throws `not-found`. */
export function placesInLineUps(server: ServerContext, jobId: string): ReadonlyMap<string, PlaceInLineUp[]> {
  const places = new Map<string, PlaceInLineUp[]>();
  for (const { name, kind, members } of listLineUps(server, jobId)) {
    members.forEach(({ programmeId }, i) => {
      const own = { name, kind, place: i + 1, of: members.length };
      places.set(programmeId, [...(places.get(programmeId) ?? []), own]);
    });
  }
  return places;
}

/** Throws `not-found`. */
export function lineUpOf(server: ServerContext, lineUpId: string): LineUpView {
  const row = server.db
    .select()
    .from(lineUps)
    .where(and(eq(lineUps.id, lineUpId), isNull(lineUps.removedAtMs)))
    .get();
  if (!row) throw new AppError('not-found', { what: 'line-up' });
  return viewOf(row, membersOf(server, [row.id]).get(row.id));
}

function viewOf(row: typeof lineUps.$inferSelect, members: Member[] = []): LineUpView {
  const { id, jobId, kind, name, specId, mixId, record } = row;
  return { id, jobId, kind, name, specId, mixId, record: record ?? USUAL_RECORD, members };
}

/** Programmes that were taken out of their job are left out, and are back in their places once they are put back. */
function membersOf({ db }: ServerContext, lineUpIds: readonly string[]): Map<string, Member[]> {
  const rows = db
    .select({ lineUpId: lineUpMembers.lineUpId, programmeId: programmes.id, gapSeconds: lineUpMembers.gapSeconds })
    .from(lineUpMembers)
    .innerJoin(programmes, eq(programmes.id, lineUpMembers.programmeId))
    .where(and(among(lineUpMembers.lineUpId, lineUpIds), isNull(programmes.removedAtMs)))
    .orderBy(asc(lineUpMembers.position))
    .all();
  const members = new Map<string, Member[]>();
  for (const { lineUpId, ...member } of rows) members.set(lineUpId, [...(members.get(lineUpId) ?? []), member]);
  return members;
}

/** Makes a line-up of programmes of one job. Throws `not-found`, `unknown-spec`, or `bad-request` where one is of another job. */
export function createLineUp(server: ServerContext, jobId: string, input: unknown): string {
  const { members, ...fields } = lineUpFields.parse(input);
  const memberIds = members.map(({ programmeId }) => programmeId);
  const mixId = within(fields.mixId, memberIds);
  const record = withinRecord(fields.record, memberIds);
  jobOf(server, jobId);
  if (fields.specId !== null) specNamed(server, fields.specId);
  const id = newId();
  server.db.transaction(
    (tx) => {
      tx.insert(lineUps)
        .values({ ...fields, mixId, record, id, jobId, createdAtMs: server.clock.now() })
        .run();
      putMembers(tx, id, jobId, members);
    },
    { behavior: 'immediate' },
  );
  return id;
}

/**
 * Changes what is stated of a line-up; what is left out stays. Throws as `createLineUp`, or `changed-elsewhere` where what is changed is not
 * what was seen.
 */
export function changeLineUp(server: ServerContext, lineUpId: string, input: unknown, seen?: Some<LineUpFields>): void {
  const now = lineUpOf(server, lineUpId);
  const { members, ...before } = now;
  const change = lineUpChange.parse(input);
  checkUnchanged<LineUpFields>({ title: now.name, now, wanted: change, seen });
  const { kind = before.kind, name = before.name, specId = before.specId } = change;
  const memberIds = (change.members ?? members).map(({ programmeId }) => programmeId);
  const mixId = within(change.mixId === undefined ? before.mixId : change.mixId, memberIds);
  const record = withinRecord(change.record ?? before.record, memberIds);
  if (specId !== null && specId !== before.specId) specNamed(server, specId);
  server.db.transaction(
    (tx) => {
      tx.update(lineUps).set({ kind, name, specId, record, mixId }).where(eq(lineUps.id, lineUpId)).run();
      if (change.members) putMembers(tx, lineUpId, before.jobId, change.members);
    },
    { behavior: 'immediate' },
  );
}

/** Takes a line-up away, or brings it back; its programmes stay as they are. Throws `not-found`. */
export function removeLineUp({ db, clock }: ServerContext, lineUpId: string, isRemoved = true): void {
  const removedAtMs = isRemoved ? clock.now() : null;
  const { changes } = db.update(lineUps).set({ removedAtMs }).where(eq(lineUps.id, lineUpId)).run();
  if (changes === 0) throw new AppError('not-found', { what: 'line-up' });
}

/** A mix that is not, or no more, among the programmes of a line-up is none. */
function within(mixId: string | null, memberIds: readonly string[]): string | null {
  return mixId !== null && memberIds.includes(mixId) ? mixId : null;
}

/** So is a sample of one that is not. */
function withinRecord(record: RecordSettings, memberIds: readonly string[]): RecordSettings {
  const { book } = record;
  const isKnown = book.sample !== null && memberIds.includes(book.sample.programmeId);
  return isKnown ? record : { ...record, book: { ...book, sample: null } };
}

function putMembers(tx: Tx, lineUpId: string, jobId: string, members: readonly Member[]): void {
  const ids = members.map(({ programmeId }) => programmeId);
  const known = tx
    .select({ id: programmes.id })
    .from(programmes)
    .where(and(eq(programmes.jobId, jobId), among(programmes.id, ids)))
    .all();
  if (known.length < ids.length) throw new AppError('bad-request', { reason: messages.otherJob });
  tx.delete(lineUpMembers).where(eq(lineUpMembers.lineUpId, lineUpId)).run();
  members.forEach(({ programmeId, gapSeconds }, position) => {
    tx.insert(lineUpMembers).values({ lineUpId, programmeId, position, gapSeconds }).run();
  });
}
