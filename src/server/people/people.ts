import { and, asc, count, desc, eq, isNull, sql } from 'drizzle-orm';
import * as z from 'zod';
import { ROLES, type Role } from '@/core/access/rights';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { auditLog, intakeTokens, people, sessions } from '../db/schema';
import { newId } from '../ids';
import { jobOf } from '../jobs/jobs';
import { hashPassphrase, LEAST_CHARACTERS, MOST_CHARACTERS } from './passphrases';
import { hashToken, newToken } from './tokens';

type Context = Pick<ServerContext, 'db' | 'clock'>;

/** So much of what happened is shown. */
const SHOWN_ENTRIES = 200;

export const personFields = z.object({
  name: z.string().trim().min(1).max(80),
  role: z.enum(ROLES),
  passphrase: z.string().min(LEAST_CHARACTERS).max(MOST_CHARACTERS),
});

export interface PersonView {
  id: string;
  name: string;
  role: Role;
  createdAtMs: number;
  sessions: { id: string; browser: string; address: string; createdAtMs: number; usedAtMs: number }[];
}

export interface PeopleView {
  people: PersonView[];
  tokens: { id: string; name: string; jobId: string | null; createdAtMs: number; usedAtMs: number | null }[];
  /** The newest first. */
  log: { id: number; atMs: number; who: string; what: string; subject: string }[];
}

export function viewPeople({ db }: Context): PeopleView {
  const open = db.select().from(sessions).orderBy(desc(sessions.usedAtMs)).all();
  const listed = db.select().from(people).where(isNull(people.removedAtMs)).orderBy(asc(people.name)).all();
  return {
    people: listed.map(({ id, name, role, createdAtMs }) => ({
      id,
      name,
      role,
      createdAtMs,
      sessions: open
        .filter(({ personId }) => personId === id)
        .map(({ id: sessionId, browser, address, createdAtMs: sinceMs, usedAtMs }) => ({
          id: sessionId,
          browser,
          address,
          createdAtMs: sinceMs,
          usedAtMs,
        })),
    })),
    tokens: db
      .select({
        id: intakeTokens.id,
        name: intakeTokens.name,
        jobId: intakeTokens.jobId,
        createdAtMs: intakeTokens.createdAtMs,
        usedAtMs: intakeTokens.usedAtMs,
      })
      .from(intakeTokens)
      .where(isNull(intakeTokens.removedAtMs))
      .orderBy(asc(intakeTokens.name))
      .all(),
    log: db.select().from(auditLog).orderBy(desc(auditLog.id)).limit(SHOWN_ENTRIES).all(),
  };
}

/** Writes down who did what. */
export function note({ db, clock }: Context, who: string, what: string, subject = ''): void {
  db.insert(auditLog).values({ atMs: clock.now(), who, what, subject }).run();
}

/** How many people there are. */
export function countPeople({ db }: Pick<ServerContext, 'db'>): number {
  return db.select({ n: count() }).from(people).where(isNull(people.removedAtMs)).get()?.n ?? 0;
}

/** Adds a person. Throws `name-taken`, or a ZodError that says what is wrong. */
export async function addPerson(server: Context, by: string, input: unknown): Promise<string> {
  const { name, role, passphrase } = personFields.parse(input);
  const passphraseHash = await hashPassphrase(passphrase);
  return server.db.transaction(
    (tx) => {
      if (personNamed(server, name)) throw new AppError('name-taken', { name });
      const id = newId();
      tx.insert(people).values({ id, name, role, passphraseHash, createdAtMs: server.clock.now() }).run();
      note(server, by, 'person added', `${name}, ${role}`);
      return id;
    },
    { behavior: 'immediate' },
  );
}

/** A person by their name, however it is written. */
export function personNamed({ db }: Pick<ServerContext, 'db'>, name: string) {
  const isNamed = eq(sql`lower(${people.name})`, name.trim().toLowerCase());
  return db
    .select()
    .from(people)
    .where(and(isNamed, isNull(people.removedAtMs)))
    .get();
}

function personOf({ db }: Pick<ServerContext, 'db'>, personId: string) {
  const person = db
    .select()
    .from(people)
    .where(and(eq(people.id, personId), isNull(people.removedAtMs)))
    .get();
  if (!person) throw new AppError('not-found', { what: 'person' });
  return person;
}

/** Gives a person another role, or another passphrase; whoever has signed in as them has to do so again. Throws `not-found`, or `last-engineer`. */
export async function changePerson(
  server: Context,
  by: string,
  personId: string,
  input: { role?: Role | undefined; passphrase?: string | undefined },
): Promise<void> {
  const change = personFields.pick({ role: true, passphrase: true }).partial().parse(input);
  const passphraseHash = change.passphrase === undefined ? undefined : await hashPassphrase(change.passphrase);
  server.db.transaction(
    (tx) => {
      const person = personOf(server, personId);
      if (change.role && change.role !== 'engineer') checkNotLast(server, person);
      tx.update(people)
        .set({ ...(change.role ? { role: change.role } : {}), ...(passphraseHash ? { passphraseHash } : {}) })
        .where(eq(people.id, personId))
        .run();
      tx.delete(sessions).where(eq(sessions.personId, personId)).run();
      if (change.role) note(server, by, 'role changed', `${person.name}, ${change.role}`);
      if (passphraseHash) note(server, by, 'passphrase changed', person.name);
    },
    { behavior: 'immediate' },
  );
}

/** Throws `not-found`, or `last-engineer`. */
export function removePerson(server: Context, by: string, personId: string): void {
  server.db.transaction(
    (tx) => {
      const person = personOf(server, personId);
      checkNotLast(server, person);
      tx.update(people).set({ removedAtMs: server.clock.now() }).where(eq(people.id, personId)).run();
      tx.delete(sessions).where(eq(sessions.personId, personId)).run();
      note(server, by, 'person removed', person.name);
    },
    { behavior: 'immediate' },
  );
}

function checkNotLast({ db }: Context, person: { id: string; name: string; role: Role }): void {
  if (person.role !== 'engineer') return;
  const engineers = db
    .select({ n: count() })
    .from(people)
    .where(and(eq(people.role, 'engineer'), isNull(people.removedAtMs)))
    .get();
  if ((engineers?.n ?? 0) <= 1) throw new AppError('last-engineer', { name: person.name });
}

/** Ends a session, whosever it is. */
export function endSession(server: Context, by: string, sessionId: string): void {
  const { changes } = server.db.delete(sessions).where(eq(sessions.id, sessionId)).run();
  if (changes > 0) note(server, by, 'session ended');
}

export const tokenFields = z.object({
  name: z.string().trim().min(1).max(80),
  jobId: z.string().min(1).max(64).nullable().default(null),
});

/** A token for a program that brings files. It is told this once: only its hash is stored. Throws `not-found` where its job is gone. */
export function addToken(server: Context, by: string, input: unknown): { id: string; token: string } {
  const { db, clock } = server;
  const { name, jobId } = tokenFields.parse(input);
  if (jobId !== null) jobOf(server, jobId);
  const [id, token] = [newId(), newToken()];
  db.insert(intakeTokens)
    .values({ id, name, jobId, tokenHash: hashToken(token), createdAtMs: clock.now() })
    .run();
  note(server, by, 'token added', name);
  return { id, token };
}

export function removeToken(server: Context, by: string, tokenId: string): void {
  const { db, clock } = server;
  const { changes } = db
    .update(intakeTokens)
    .set({ removedAtMs: clock.now() })
    .where(and(eq(intakeTokens.id, tokenId), isNull(intakeTokens.removedAtMs)))
    .run();
  if (changes > 0) note(server, by, 'token removed', tokenId);
}
