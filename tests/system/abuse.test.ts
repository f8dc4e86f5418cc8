/** What a server is asked by those who mean it ill, or break off: it goes on answering, and acknowledges nothing that is not there. */
import { cpSync, existsSync, renameSync, rmSync } from 'node:fs';
import { type ClientRequest, request } from 'node:http';
import { setTimeout } from 'node:timers/promises';
import { Served } from '../fixtures/served';
import { TestServer } from '../fixtures/server';
import { until } from '../fixtures/until';

const PORT = 4393;
const SILENCE_SECONDS = 3;
/** As many as src/door/open-bodies.ts takes. */
const MOST_AT_ONCE = 64;
const GIGABYTE = 1_000_000_000;

let host: TestServer;
let served: Served;
beforeAll(async () => {
  host = new TestServer();
  await host.server.close();
  served = await Served.start(host.root, PORT, { OPSIMETER_UPLOAD_SILENCE_S: String(SILENCE_SECONDS) });
});
afterAll(async () => {
  await served.kill();
  rmSync(host.root, { recursive: true, force: true });
});

interface Stalled {
  asked: ClientRequest;
  /** Its status; 0 where the connection was ended. */
  ended: Promise<number>;
}

/** An upload that says it is long, sends four bytes, and then nothing. */
function stall(name: string): Stalled {
  const asked = request(`${served.base}/api/jobs/${host.jobId}/sources?name=${name}`, {
    method: 'PUT',
    agent: false,
    headers: { 'Content-Length': 100_000_000 },
  });
  const ended = new Promise<number>((resolve) => {
    asked.on('response', (response) => {
      response.resume();
      resolve(response.statusCode ?? 0);
    });
    asked.on('error', () => resolve(0));
  });
  asked.write('RIFF');
  return { asked, ended };
}

test('200 uploads that stall are held within bounds, let go after a while, and keep no page waiting', async () => {
  const before = { kilobytes: served.residentKilobytes(), threads: served.threads() };
  const stalled = Array.from({ length: 200 }, (_, i) => stall(`${i}.wav`));
  const refused = stalled.length - MOST_AT_ONCE;
  const statuses: number[] = [];
  for (const { ended } of stalled) void ended.then((status) => statuses.push(status));
  await until(() => statuses.filter((status) => status === 503).length === refused);
  const startedMs = performance.now();
  expect((await fetch(`${served.base}/`)).status).toBe(200);
  const pageMs = performance.now() - startedMs;
  const grown = served.residentKilobytes() - before.kilobytes;
  const threads = served.threads() - before.threads;
  console.info(`page after ${pageMs.toFixed(0)} ms, ${(grown / 1000).toFixed(0)} MB and ${threads} threads more`);
  expect(grown).toBeLessThan(250_000);
  expect(threads).toBeLessThanOrEqual(4);
  await until(() => statuses.length === stalled.length);
  expect(statuses.filter((status) => status === 503)).toHaveLength(refused);
  // What was received of them is gone, and the next one is taken.
  await until(() => host.files().length === 0);
  const next = await fetch(`${served.base}/api/jobs/${host.jobId}/sources?name=a.wav`, { method: 'PUT', body: 'x' });
  expect(next.status).toBe(422);
});

test('an upload that comes slowly is no silent one', async () => {
  const { asked, ended } = stall('slow.wav');
  for (let i = 0; i < 2 * SILENCE_SECONDS; i++) {
    await setTimeout(1000);
    asked.write('slow');
  }
  expect(await Promise.race([ended, 'open'])).toBe('open');
  asked.destroy();
  await ended;
});

test('JSON that is too much, or too deep, is refused before it costs anything', async () => {
  const post = (body: BodyInit) =>
    fetch(`${served.base}/api/jobs`, { method: 'POST', body, duplex: 'half' } as RequestInit);
  const before = served.residentKilobytes();
  const large = await post(`{"name":"${'x'.repeat(50_000_000)}"}`);
  expect(large.status).toBe(413);
  expect(await large.json()).toMatchObject({ error: { code: 'too-large' } });
  expect(served.residentKilobytes() - before).toBeLessThan(300_000);
  for (const open of ['[', '{"a":']) {
    const deep = await post(open.repeat(500_000));
    expect(deep.status).toBe(400);
    expect(await deep.json()).toMatchObject({ error: { code: 'bad-request' } });
  }
  // What looks deep within a string is not.
  expect((await post(JSON.stringify({ name: '[{"'.repeat(33) }))).status).toBe(201);
});

describe('uploads that go on', () => {
  const encoded = (text: string) => Buffer.from(text).toString('base64');
  const create = (bytes: number, jobId = host.jobId) =>
    fetch(`${served.base}/api/uploads`, {
      method: 'POST',
      headers: {
        'Tus-Resumable': '1.0.0',
        'Upload-Length': String(bytes),
        'Upload-Metadata': `jobId ${encoded(jobId)},fileName ${encoded('mix.wav')}`,
      },
    });

  test.each([
    ['of a job that is not there', 1000, 'none', 404, 'not-found'],
    ['of more than any programme', 2 ** 39, undefined, 422, 'too-large'],
    ['of nothing', 0, undefined, 422, 'empty-file'],
  ])('one %s is refused at once', async (_, bytes, jobId, status, code) => {
    const answer = await create(bytes, jobId);
    expect(answer.status).toBe(code === 'too-large' ? 413 : status);
    expect(await answer.json()).toMatchObject({ error: { code } });
  });

  test('together they are promised no more than there is room for; no other page may read the answers', async () => {
    const urls: string[] = [];
    let answer = await create(200 * GIGABYTE);
    for (; answer.status === 201; answer = await create(200 * GIGABYTE)) {
      urls.push(answer.headers.get('location') as string);
      expect([...answer.headers.keys()].filter((name) => name.startsWith('access-control'))).toEqual([]);
    }
    expect(answer.status).toBe(507);
    expect(await answer.json()).toMatchObject({ error: { code: 'no-room' } });
    for (const url of urls) {
      const gone = await fetch(`${served.base}${url}`, { method: 'DELETE', headers: { 'Tus-Resumable': '1.0.0' } });
      expect(gone.status).toBe(204);
    }
  });
});

test('scripts run only where this very answer names them, and each answer names them anew', async () => {
  const nonces = new Set<string>();
  for (const path of ['/', '/specs', '/receivers', '/live', `/jobs/${host.jobId}/take-in`, '/nowhere']) {
    const answer = await fetch(served.base + path);
    const policy = answer.headers.get('content-security-policy') ?? '';
    const scripts = policy.split('; ').find((part) => part.startsWith('script-src')) ?? '';
    const [, nonce = ''] = /'nonce-([^']+)'/.exec(scripts) ?? [];
    expect(scripts).toBe(`script-src 'self' 'nonce-${nonce}'`);
    nonces.add(nonce);
    const html = await answer.text();
    const tags = html.match(/<script\b[^>]*>/g) ?? [];
    expect(tags.length).toBeGreaterThan(0);
    for (const tag of tags) expect(tag).toContain(`nonce="${nonce}"`);
    expect(html).not.toMatch(/<[^>]+ on\w+="/);
  }
  expect(nonces.size).toBe(6);
  // A request can't bring one of its own along.
  const forged = await fetch(served.base, {
    headers: { 'Content-Security-Policy': "script-src 'nonce-mine'", 'X-Nonce': 'mine' },
  });
  expect(await forged.text()).not.toContain('nonce="mine"');
});

test('a data folder that is gone is noticed: nothing is acknowledged, and it goes on once it is back', async () => {
  const away = `${host.root}-away`;
  const create = () => fetch(`${served.base}/api/jobs`, { method: 'POST', body: JSON.stringify({ name: 'Episode' }) });
  renameSync(host.root, away);
  for (const path of ['/', '/api/jobs']) expect((await fetch(served.base + path)).status).toBe(503);
  const lost = await create();
  expect(lost.status).toBe(503);
  expect(await lost.json()).toMatchObject({ error: { code: 'data-folder-gone' } });
  // Another one in its place is not it, however alike.
  cpSync(away, host.root, { recursive: true });
  expect((await create()).status).toBe(503);
  rmSync(host.root, { recursive: true });
  renameSync(away, host.root);
  expect((await create()).status).toBe(201);
  expect(existsSync(away)).toBe(false);
});
