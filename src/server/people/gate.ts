import { and, eq, isNull, lt } from 'drizzle-orm';
import { type Asker, isForAll, mayAsk, type Role } from '@/core/access/rights';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { intakeTokens, people, sessions } from '../db/schema';
import { newId } from '../ids';
import { Attempts } from './attempts';
import { isPassphrase } from './passphrases';
import { note, personNamed } from './people';
import { hashToken, newToken } from './tokens';

const DAY_MS = 24 * 3_600_000;
/** A session ends when nothing was asked for so long, and in any case after so long. */
const IDLE_MS = 3 * DAY_MS;
const LONGEST_MS = 30 * DAY_MS;
export const SESSION_SECONDS = LONGEST_MS / 1000;
/** When it was used last is noted this often at most: not with each of a page's requests. */
const NOTED_EVERY_MS = 60_000;

/** What is asked, as the door has it. */
export interface Asked {
  method: string;
  /** Without its query. */
  path: string;
  cookie: string | undefined;
  authorization: string | undefined;
}

/** Whether it is let in; by whom it is asked, in words for a log and a certificate. */
export type Admission = { isIn: true; who: string; role: Role | 'intake' | '' } | { isIn: false; error: AppError };

const ROLE_WORDS = { engineer: 'an engineer', reviewer: 'a reviewer', intake: 'a program that brings files' };

export const SESSION_COOKIE = 'opsimeter-session';

/** Decides of each request whether it is let in, where people sign in. */
export class Gate {
  readonly #server: Pick<ServerContext, 'db' | 'clock'>;
  readonly #attempts: Attempts;

  constructor(server: Pick<ServerContext, 'db' | 'clock'>) {
    this.#server = server;
    this.#attempts = new Attempts(server.clock);
  }

  admit(asked: Asked): Admission {
    const known = this.#bySession(asked.cookie) ?? this.#byToken(asked.authorization);
    if (!known) {
      if (isForAll(asked)) return { isIn: true, who: '', role: '' };
      return { isIn: false, error: new AppError('not-signed-in', {}) };
    }
    const role = known.asker.kind === 'person' ? known.asker.role : 'intake';
    if (isForAll(asked) || mayAsk(known.asker, asked)) return { isIn: true, who: known.who, role };
    return { isIn: false, error: new AppError('not-allowed', { role: ROLE_WORDS[role] }) };
  }

  /**
   * Signs somebody in. Returns what their browser is to show from now on.
   *
   * @throws AppError `wrong-passphrase`, whether there is somebody of that name or not, or `too-many-attempts`
   */
  async signIn(name: string, passphrase: string, from: { browser: string; address: string }): Promise<string> {
    const { db, clock } = this.#server;
    const keys = [`name ${name.trim().toLowerCase()}`, `address ${from.address}`];
    const waitMs = this.#attempts.waitMs(keys);
    if (waitMs > 0) throw new AppError('too-many-attempts', { minutes: Math.ceil(waitMs / 60_000) });
    // Counted before it is known: many at once are as many attempts.
    this.#attempts.failed(keys);
    const person = personNamed(this.#server, name);
    if (!(await isPassphrase(person?.passphraseHash, passphrase)) || !person) {
      note(this.#server, '', 'sign-in refused', `${name.slice(0, 80)} from ${from.address}`);
      throw new AppError('wrong-passphrase', {});
    }
    for (const key of keys) this.#attempts.succeeded(key);
    const token = newToken();
    const now = clock.now();
    db.delete(sessions)
      .where(lt(sessions.usedAtMs, now - IDLE_MS))
      .run();
    db.insert(sessions)
      .values({
        id: newId(),
        personId: person.id,
        tokenHash: hashToken(token),
        browser: from.browser.slice(0, 200),
        address: from.address,
        createdAtMs: now,
        usedAtMs: now,
      })
      .run();
    note(this.#server, person.name, 'signed in', from.address);
    return token;
  }

  signOut(cookie: string | undefined): void {
    const token = tokenIn(cookie);
    if (token)
      this.#server.db
        .delete(sessions)
        .where(eq(sessions.tokenHash, hashToken(token)))
        .run();
  }

  #bySession(cookie: string | undefined): { asker: Asker; who: string } | undefined {
    const token = tokenIn(cookie);
    if (!token) return undefined;
    const { db, clock } = this.#server;
    const found = db
      .select({ session: sessions, person: people })
      .from(sessions)
      .innerJoin(people, eq(people.id, sessions.personId))
      .where(and(eq(sessions.tokenHash, hashToken(token)), isNull(people.removedAtMs)))
      .get();
    const now = clock.now();
    if (!found || now - found.session.usedAtMs > IDLE_MS || now - found.session.createdAtMs > LONGEST_MS)
      return undefined;
    if (now - found.session.usedAtMs > NOTED_EVERY_MS) {
      db.update(sessions).set({ usedAtMs: now }).where(eq(sessions.id, found.session.id)).run();
    }
    return { asker: { kind: 'person', role: found.person.role }, who: found.person.name };
  }

  #byToken(authorization: string | undefined): { asker: Asker; who: string } | undefined {
    const [, token] = /^Bearer ([\w-]{20,200})$/.exec(authorization ?? '') ?? [];
    if (!token) return undefined;
    const { db, clock } = this.#server;
    const found = db
      .select()
      .from(intakeTokens)
      .where(and(eq(intakeTokens.tokenHash, hashToken(token)), isNull(intakeTokens.removedAtMs)))
      .get();
    if (!found) return undefined;
    const now = clock.now();
    if (now - (found.usedAtMs ?? 0) > NOTED_EVERY_MS) {
      db.update(intakeTokens).set({ usedAtMs: now }).where(eq(intakeTokens.id, found.id)).run();
    }
    return { asker: { kind: 'intake', jobId: found.jobId }, who: found.name };
  }
}

function tokenIn(cookie: string | undefined): string | undefined {
  const own = (cookie ?? '').split(';').map((part) => part.trim());
  const named = own.filter((part) => part.startsWith(`${SESSION_COOKIE}=`));
  // One that says two may have been given the other by somebody else.
  return named.length === 1 ? named[0]?.slice(SESSION_COOKIE.length + 1) : undefined;
}
