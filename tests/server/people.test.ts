/** Who is let in: people by their passphrase, browsers by their session, programs by their token; and how long. */
import { sessions } from '@/server/db/schema';
import { Attempts } from '@/server/people/attempts';
import { Gate } from '@/server/people/gate';
import { isPassphrase } from '@/server/people/passphrases';
import {
  addPerson,
  addToken,
  changePerson,
  endSession,
  removePerson,
  removeToken,
  viewPeople,
} from '@/server/people/people';
import { code } from '../fixtures/error-code';
import { TestServer } from '../fixtures/server';

const PASSPHRASE = 'correct horse battery';
const FROM = { browser: 'Test', address: '10.0.0.1' };
let host: TestServer;
let laterMs = 0;
let gate: Gate;
beforeEach(() => {
  laterMs = 0;
  host = new TestServer();
  Object.assign(host.server, { clock: { now: () => Date.now() + laterMs } });
  gate = new Gate(host.server);
});
afterEach(() => host.remove());

const asked = (method: string, path: string, by: { cookie?: string; authorization?: string } = {}) =>
  gate.admit({ method, path, cookie: by.cookie, authorization: by.authorization });
const cookieOf = (token: string) => `theme=dark; opsimeter-session=${token}`;
const add = (name: string, role: 'engineer' | 'reviewer') =>
  addPerson(host.server, 'test', { name, role, passphrase: PASSPHRASE });
const signIn = async (name: string, passphrase = PASSPHRASE) => cookieOf(await gate.signIn(name, passphrase, FROM));

test('a person signs in by name and passphrase, and is known by their browser until they sign out', async () => {
  await add('Ana Lund', 'engineer');
  const cookie = await signIn(' ana lund ');
  expect(asked('GET', '/', { cookie })).toEqual({ isIn: true, who: 'Ana Lund', role: 'engineer' });
  expect(asked('DELETE', '/api/jobs/a', { cookie }).isIn).toBe(true);
  gate.signOut(cookie);
  expect(asked('GET', '/', { cookie }).isIn).toBe(false);
  expect(viewPeople(host.server).log.map(({ what }) => what)).toEqual(['signed in', 'person added']);
});

test('what a browser shows and what a person types is nowhere in the database', async () => {
  await add('Ana', 'engineer');
  const cookie = await signIn('Ana');
  const { token } = addToken(host.server, 'Ana', { name: 'Uploader' });
  const stored = JSON.stringify([
    host.read('select * from people'),
    host.read('select * from sessions'),
    host.read('select * from intake_tokens'),
    host.read('select * from audit_log'),
  ]);
  for (const secret of [PASSPHRASE, cookie.split('=').at(-1) as string, token]) expect(stored).not.toContain(secret);
  expect(stored).toContain('$argon2id$v=19$m=19456,t=2,p=1$');
});

test('neither a wrong passphrase nor an unknown name lets in, and both are told alike', async () => {
  await add('Ana', 'engineer');
  const told = async (name: string, passphrase: string) => {
    const error = await gate.signIn(name, passphrase, FROM).catch((own) => own);
    return JSON.stringify(error.toJSON());
  };
  expect(await told('Ana', 'wrong horse battery')).toBe(await told('Nobody', PASSPHRASE));
  expect(await isPassphrase(undefined, PASSPHRASE)).toBe(false);
  expect(await isPassphrase('not a hash', PASSPHRASE)).toBe(false);
  for (const cookie of [
    undefined,
    '',
    cookieOf(''),
    cookieOf('a'.repeat(43)),
    'opsimeter-session=',
    "opsimeter-session=' or 1=1 --",
  ])
    expect(asked('GET', '/api/jobs', cookie === undefined ? {} : { cookie }).isIn).toBe(false);
});

test('two cookies of the one name let nobody in: one of them may be somebody else’s', async () => {
  await add('Ana', 'engineer');
  const cookie = await signIn('Ana');
  expect(asked('GET', '/', { cookie: `opsimeter-session=x; ${cookie}` }).isIn).toBe(false);
});

test('after five failures a name waits, from wherever it is tried; and an address, whatever names it tries', async () => {
  await add('Ana', 'engineer');
  const tryFrom = (name: string, address: string, passphrase = 'wrong horse battery') =>
    code(() => gate.signIn(name, passphrase, { browser: 'x', address }));
  for (let k = 0; k < 5; k++) expect(await tryFrom('Ana', `10.0.1.${k}`)).toBe('wrong-passphrase');
  expect(await tryFrom('ANA ', '10.0.2.1', PASSPHRASE)).toBe('too-many-attempts');
  for (let k = 0; k < 5; k++) expect(await tryFrom(`Name ${k}`, '10.0.3.1')).toBe('wrong-passphrase');
  expect(await tryFrom('Another', '10.0.3.1')).toBe('too-many-attempts');
  laterMs = 16 * 60_000;
  expect(await tryFrom('Ana', '10.0.2.1', PASSPHRASE)).toBe('nothing was thrown');
});

test('many attempts at once are as many attempts', async () => {
  await add('Ana', 'engineer');
  const all = await Promise.all(
    Array.from({ length: 30 }, () => code(() => gate.signIn('Ana', 'wrong horse battery', FROM))),
  );
  expect(all.filter((own) => own === 'wrong-passphrase')).toHaveLength(5);
});

test('failures of names that nobody has take no more than so much memory', () => {
  const attempts = new Attempts({ now: () => 1 });
  for (let k = 0; k < 20_000; k++) attempts.failed([`name ${k}`]);
  for (let k = 0; k < 5; k++) attempts.failed(['name 5']);
  expect(attempts.waitMs(['name 5'])).toBeGreaterThan(0);
  expect(attempts.waitMs(['name 19999'])).toBe(0);
});

test('a session ends when nothing was asked for three days, and after thirty in any case', async () => {
  await add('Ana', 'engineer');
  const cookie = await signIn('Ana');
  const day = 24 * 3_600_000;
  laterMs = 3 * day + 1000;
  expect(asked('GET', '/', { cookie }).isIn).toBe(false);
  laterMs = 0;
  for (let k = 0; k < 29; k++) {
    laterMs = k * day;
    expect(asked('GET', '/', { cookie }).isIn).toBe(true);
  }
  laterMs = 30 * day + 60_000;
  expect(asked('GET', '/', { cookie }).isIn).toBe(false);
});

test('another role or passphrase, or being removed, ends every session of a person; so does somebody else', async () => {
  const anaId = await add('Ana', 'engineer');
  const benId = await add('Ben', 'engineer');
  const isIn = (cookie: string) => asked('GET', '/', { cookie }).isIn;
  let cookie = await signIn('Ben');
  await changePerson(host.server, 'Ana', benId, { role: 'reviewer' });
  expect(isIn(cookie)).toBe(false);
  cookie = await signIn('Ben');
  expect(asked('DELETE', '/api/jobs/a', { cookie })).toMatchObject({ isIn: false, error: { code: 'not-allowed' } });
  await changePerson(host.server, 'Ana', benId, { passphrase: 'another horse battery' });
  expect(isIn(cookie)).toBe(false);
  cookie = await signIn('Ben', 'another horse battery');
  const [session] = host.server.db.select().from(sessions).all();
  endSession(host.server, 'Ana', session?.id ?? '');
  expect(isIn(cookie)).toBe(false);
  cookie = await signIn('Ben', 'another horse battery');
  removePerson(host.server, 'Ana', benId);
  expect(isIn(cookie)).toBe(false);
  expect(await code(() => signIn('Ben', 'another horse battery'))).toBe('wrong-passphrase');
  expect(await code(() => removePerson(host.server, 'Ana', anaId))).toBe('last-engineer');
  expect(await code(() => changePerson(host.server, 'Ana', anaId, { role: 'reviewer' }))).toBe('last-engineer');
  // The name is free again.
  await add('Ben', 'reviewer');
  expect(await code(() => add('bEN', 'reviewer'))).toBe('name-taken');
});

test.each([
  { name: '', role: 'engineer', passphrase: PASSPHRASE },
  { name: 'A', role: 'owner', passphrase: PASSPHRASE },
  { name: 'A', role: 'engineer', passphrase: 'short' },
  { name: 'A', role: 'engineer', passphrase: 'x'.repeat(201) },
])('%j is no person', async (input) => {
  await expect(addPerson(host.server, 'test', input)).rejects.toThrow();
  expect(viewPeople(host.server).people).toEqual([]);
});

test('a program brings files by its token, and does nothing else; of one job, to that one only', async () => {
  const { id, token } = addToken(host.server, 'Ana', { name: 'Uploader' });
  const own = addToken(host.server, 'Ana', { name: 'Of one', jobId: host.jobId });
  expect(await code(() => addToken(host.server, 'Ana', { name: 'Of none', jobId: 'none' }))).toBe('not-found');
  const by = (value: string) => ({ authorization: `Bearer ${value}` });
  expect(asked('PUT', '/api/jobs/any/sources', by(token))).toEqual({ isIn: true, who: 'Uploader', role: 'intake' });
  expect(asked('PUT', `/api/jobs/${host.jobId}/sources`, by(own.token)).isIn).toBe(true);
  expect(asked('PUT', '/api/jobs/other/sources', by(own.token)).isIn).toBe(false);
  for (const [method, path] of [
    ['GET', '/'],
    ['DELETE', '/api/jobs/any'],
    ['GET', '/api/deliveries/d/file'],
    ['GET', '/api/people'],
    ['POST', '/api/deliveries/d/approval'],
  ] as const) {
    expect(asked(method, path, by(token)).isIn).toBe(false);
  }
  removeToken(host.server, 'Ana', id);
  expect(asked('PUT', '/api/jobs/any/sources', by(token)).isIn).toBe(false);
  for (const authorization of ['Bearer', 'Bearer ', `Basic ${token}`, `Bearer ${token.slice(1)}`]) {
    expect(asked('PUT', '/api/jobs/any/sources', { authorization }).isIn).toBe(false);
  }
});
