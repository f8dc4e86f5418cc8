/**
 * The app served to others, with every door tried by who has no key to it. By the names of OWASP's Top Ten of 2021 (from memory): broken access control (A01), cryptographic
 * failures (A02), injection (A03), insecure design (A04), misconfiguration (A05), authentication failures (A07), forged requests (A08, A10).
 */
import { spawnSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import { type RequestOptions, request } from 'node:https';
import { join, resolve } from 'node:path';
import { connect } from 'node:tls';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { addRow } from '@/server/deliveries/rows';
import { writeRow } from '@/server/deliveries/write-row';
import type { Operation } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { addPerson, addToken } from '@/server/people/people';
import { Served } from '../fixtures/served';
import { TestServer } from '../fixtures/server';
import { stereo, tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const PORT = 4388;
const NAME = `desk.example:${PORT}`;
const PASSPHRASE = 'correct horse battery';

let host: TestServer;
let served: Served;
let deliveryId: string;
let token: string;
let env: Record<string, string>;
beforeAll(async () => {
  host = new TestServer();
  const { programmeId } = await host.measured(wavOf(stereo(tone([{ seconds: 3, levelDbfs: -23 }], 48_000))));
  const row = addRow(host.server, {
    programmeId,
    specId: 'ebu-r128',
    format: deliveryFormatSchema.parse({ kind: 'wav' }),
    levelMode: { kind: 'as-set' },
  });
  deliveryId = await writeRow(host.server, row.id);
  await host.server.runner.whenIdle();
  for (const [name, role] of [
    ['Ana', 'engineer'],
    ['Rolf', 'reviewer'],
  ] as const) {
    await addPerson(host.server, 'test', { name, role, passphrase: PASSPHRASE });
  }
  token = addToken(host.server, 'Ana', { name: 'Uploader' }).token;
  await host.server.close();
  // Made for this, of an elliptic curve (P-256), for a hundred years.
  const [cert, key] = ['cert.pem', 'key.pem'].map((name) => resolve('tests/fixtures/tls', name)) as [string, string];
  env = {
    OPSIMETER_LISTEN: '127.0.0.2',
    OPSIMETER_NAMES: NAME,
    OPSIMETER_TLS_CERT: cert,
    OPSIMETER_TLS_KEY: key,
    OPSIMETER_PEOPLE: '1',
  };
  served = await Served.start(host.root, PORT, env);
});
afterAll(async () => {
  await served.kill();
  rmSync(host.root, { recursive: true, force: true });
});

interface Answer {
  status: number;
  headers: Record<string, string | string[] | undefined>;
  text: string;
}

function ask(
  method: string,
  path: string,
  headers: Record<string, string> = {},
  body?: string | Buffer,
): Promise<Answer> {
  const options: RequestOptions = {
    host: '127.0.0.2',
    port: PORT,
    path,
    method,
    rejectUnauthorized: false,
    agent: false,
    headers: {
      Host: NAME,
      ...headers,
      ...(body === undefined ? {} : { 'Content-Length': String(Buffer.byteLength(body)) }),
    },
  };
  return new Promise((resolve, reject) => {
    const asked = request(options, (response) => {
      let text = '';
      response.on('data', (bytes) => {
        text += bytes;
        // Of what goes on for ever, its beginning.
        if (text.length > 100_000) response.destroy();
      });
      response.on('close', () => resolve({ status: response.statusCode ?? 0, headers: response.headers, text }));
    });
    asked.on('error', reject);
    asked.end(body);
  });
}

async function signedIn(name: string, passphrase = PASSPHRASE): Promise<string> {
  const answer = await ask(
    'POST',
    '/api/sign-in',
    { 'Content-Type': 'application/json' },
    JSON.stringify({ name, passphrase }),
  );
  expect(answer.status).toBe(204);
  const [cookie = ''] = (answer.headers['set-cookie'] ?? []) as string[];
  // A02: it is sent over TLS only, read by no script, and brought along by no other site.
  for (const part of ['HttpOnly', 'Secure', 'SameSite=Strict', 'Path=/']) expect(cookie).toContain(part);
  return cookie.split(';')[0] as string;
}

test('it does not start open to others without names, TLS or people', () => {
  const start = (more: Record<string, string>) =>
    spawnSync(process.execPath, ['scripts/serve.mjs'], {
      env: {
        ...process.env,
        NODE_ENV: 'production',
        NODE_OPTIONS: '',
        PORT: '4387',
        OPSIMETER_DATA: join(host.root, 'empty'),
        ...more,
      },
      encoding: 'utf8',
      timeout: 60_000,
    });
  expect(start({ OPSIMETER_LISTEN: '0.0.0.0' }).stderr).toContain('OPSIMETER_NAMES');
  expect(start({ OPSIMETER_LISTEN: '0.0.0.0', OPSIMETER_NAMES: 'a' }).stderr).toContain('OPSIMETER_TLS_CERT');
  const alone = start(env);
  expect(alone.stderr).toContain('opsimeter people add');
  expect(alone.status).toBe(1);
});

test('A01: without signing in, every operation and every page is closed', async () => {
  for (const own of Object.values(OPERATIONS) as Operation[]) {
    const isOpen =
      own.path === '/api/sign-in' || own.path.startsWith('/api/intake') || /transfers\/.*files/.test(own.path);
    const path = own.path.replaceAll(/\{\w+\}/g, 'a');
    const { status } = await ask(own.method, path, {}, own.body ? '{}' : undefined);
    if (isOpen) expect(`${path} ${status}`).not.toMatch(/ 2\d\d$/);
    else expect(`${own.method} ${path} ${status}`).toBe(`${own.method} ${path} 401`);
  }
  for (const path of ['/', `/jobs/${host.jobId}/take-in`, '/people', '/storage', '/receivers', '/live', '/nowhere']) {
    const page = await ask('GET', path, { Accept: 'text/html' });
    expect(page.status).toBe(303);
    expect(page.headers.location).toBe(`/sign-in?next=${encodeURIComponent(path)}`);
    expect((await ask('POST', path, { 'Next-Action': 'a' }, '[]')).status).toBe(401);
  }
  for (const path of [
    '/_next/static/../../api/jobs',
    '/_next/static/..%2f..%2fapi/jobs',
    '//api/jobs',
    '/sign-in/../api/jobs',
    '/%2e%2e/api/jobs',
    '/API/jobs',
    '/api/jobs;x',
    '/_next/image?url=/api/jobs',
    '/_next/data/x.json',
  ]) {
    const { status, text } = await ask('GET', path);
    expect(`${path} ${status}`).toMatch(/ (400|401|404)$/);
    expect(text).not.toContain(host.jobId);
  }
});

test('the page to sign in is there, and needs nothing that is closed', async () => {
  const page = await ask('GET', '/sign-in', { Accept: 'text/html' });
  expect(page.status).toBe(200);
  expect(page.headers['strict-transport-security']).toBeDefined();
  for (const [, path] of page.text.matchAll(/(?:src|href)="(\/_next\/static\/[^"]+)"/g)) {
    expect((await ask('GET', path as string)).status).toBe(200);
  }
  // A01: it leads to no other site.
  expect((await ask('GET', '/sign-in?next=//evil.example', { Accept: 'text/html' })).text).not.toContain(
    '"//evil.example"',
  );
});

test('A05, A08: other names and other pages are refused, with or without a session', async () => {
  const cookie = await signedIn('Ana');
  expect((await ask('GET', '/api/jobs', { Cookie: cookie })).status).toBe(200);
  for (const name of ['127.0.0.2:4388', '127.0.0.1:4388', 'localhost:4388', 'evil.example', `x.${NAME}`]) {
    expect((await ask('GET', '/api/jobs', { Host: name, Cookie: cookie })).status).toBe(403);
  }
  const create = (origin: Record<string, string>) =>
    ask('POST', '/api/jobs', { Cookie: cookie, 'Content-Type': 'application/json', ...origin }, '{"name":"By Ana"}');
  for (const origin of ['https://evil.example', `http://${NAME}`, 'null', `https://${NAME}.evil.example`]) {
    expect((await create({ Origin: origin })).status).toBe(403);
  }
  expect((await create({ Origin: `https://${NAME}` })).status).toBe(201);
});

test('A01: nobody says of themselves who they are', async () => {
  for (const headers of [
    { 'X-Person': 'Ana', 'X-Person-Role': 'engineer' },
    { 'X-People': '0' },
    { 'X-Forwarded-For': '127.0.0.1', 'X-Forwarded-Host': '127.0.0.1' },
    { 'X-Middleware-Subrequest': 'middleware:middleware:middleware:middleware:middleware' },
    { 'X-Original-URL': '/sign-in', 'X-Rewrite-URL': '/sign-in' },
  ] as Record<string, string>[]) {
    expect((await ask('GET', '/api/jobs', headers)).status).toBe(401);
  }
  const reviewer = await signedIn('Rolf');
  const raised = { Cookie: reviewer, 'X-Person': 'Ana', 'X-Person-Role': 'engineer' };
  expect((await ask('GET', '/api/people', raised)).status).toBe(403);
  await ask('POST', `/api/deliveries/${deliveryId}/approval`, raised);
  const certificate = JSON.parse(
    (await ask('GET', `/api/deliveries/${deliveryId}/certificate?as=json`, { Cookie: reviewer })).text,
  );
  expect(certificate.approved).toMatchObject({ by: 'Rolf' });
});

test('a reviewer listens, reads and approves; whatever else is changed is refused', async () => {
  const cookie = await signedIn('Rolf');
  for (const path of [`/jobs/${host.jobId}/take-in`, `/api/deliveries/${deliveryId}/file`, '/api/jobs']) {
    expect((await ask('GET', path, { Cookie: cookie })).status).toBe(200);
  }
  const refused: string[] = [];
  for (const own of Object.values(OPERATIONS) as Operation[]) {
    if (['GET', 'HEAD'].includes(own.method)) continue;
    const isTheirs =
      /\/(acceptance|approval)$/.test(own.path) || /^\/api\/(sign-in|sign-out|intake|transfers)/.test(own.path);
    if (isTheirs) continue;
    const { status } = await ask(
      own.method,
      own.path.replaceAll(/\{\w+\}/g, 'a'),
      { Cookie: cookie },
      own.body ? '{}' : undefined,
    );
    if (status !== 403) refused.push(`${own.method} ${own.path} ${status}`);
  }
  expect(refused).toEqual([]);
  for (const path of ['/', `/jobs/${host.jobId}/hand-over`]) {
    expect((await ask('POST', path, { Cookie: cookie, 'Next-Action': 'a' }, '[]')).status).toBe(403);
  }
  expect((await ask('GET', '/people', { Cookie: cookie, Accept: 'text/html' })).status).toBe(403);
});

test('a program brings a file by its token, also in parts, and sees no other', async () => {
  const by = { Authorization: `Bearer ${token}` };
  const wav = Buffer.from(wavOf(stereo(tone([{ seconds: 1, levelDbfs: -20 }], 48_000))));
  const put = await ask('PUT', `/api/jobs/${host.jobId}/sources?name=by-token.wav`, by, wav);
  expect(put.status).toBe(201);
  expect((await ask('GET', `/api/deliveries/${deliveryId}/file`, by)).status).toBe(403);
  expect((await ask('DELETE', `/api/jobs/${host.jobId}`, by)).status).toBe(403);
});

test('A07: guessing is slowed down, told by nothing, and cannot lock everybody out', async () => {
  const guess = (name: string) =>
    ask(
      'POST',
      '/api/sign-in',
      { 'Content-Type': 'application/json' },
      JSON.stringify({ name, passphrase: 'wrong horse battery' }),
    );
  const [known, unknown] = [await guess('Ana'), await guess('Nobody')];
  expect(known.status).toBe(401);
  expect(JSON.parse(known.text)).toEqual(JSON.parse(unknown.text));
  let status = 401;
  for (let k = 0; k < 6 && status === 401; k++) ({ status } = await guess('Ana'));
  expect(status).toBe(429);
  for (const body of [
    '{',
    '[]',
    '{"name":{"$gt":""},"passphrase":{"$gt":""}}',
    `{"name":"a","passphrase":"${'x'.repeat(100_000)}"}`,
  ]) {
    expect((await ask('POST', '/api/sign-in', {}, body)).status).toBe(400);
  }
});

test('A02: it speaks TLS of today, and nothing older', async () => {
  const speaks = (maxVersion: 'TLSv1.1' | 'TLSv1.3') =>
    new Promise<boolean>((resolve) => {
      const minVersion = maxVersion === 'TLSv1.1' ? 'TLSv1' : 'TLSv1.2';
      const socket = connect({
        host: '127.0.0.2',
        port: PORT,
        rejectUnauthorized: false,
        minVersion,
        maxVersion,
        ciphers: 'DEFAULT@SECLEVEL=0',
      });
      socket.once('secureConnect', () => resolve(true)).once('error', () => resolve(false));
      socket.once('secureConnect', () => socket.destroy());
    });
  expect(await speaks('TLSv1.3')).toBe(true);
  expect(await speaks('TLSv1.1')).toBe(false);
});
