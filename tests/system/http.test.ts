/** The server's outer edge: who it answers to, and how it says no. */

import { rmSync } from 'node:fs';
import { request } from 'node:http';
import { Readable } from 'node:stream';
import { Served } from '../fixtures/served';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const PORT = 4392;
let host: TestServer;
let served: Served;

beforeAll(async () => {
  host = new TestServer();
  await host.server.close();
  served = await Served.start(host.root, PORT);
});
afterAll(async () => {
  await served.kill();
  rmSync(host.root, { recursive: true, force: true });
});

/** A request with any headers, as a hostile page or a rebound name would send it. */
function ask(path: string, headers: Record<string, string>, method = 'GET'): Promise<number> {
  return new Promise((resolve, reject) => {
    const asked = request(`${served.base}${path}`, { method, headers }, (response) => {
      response.resume();
      resolve(response.statusCode ?? 0);
    });
    asked.on('error', reject);
    asked.end();
  });
}

test('it answers to its own names only, and takes changes only from its own pages', async () => {
  expect(await ask('/', {})).toBe(200);
  expect(await ask('/', { Host: `localhost:${PORT}` })).toBe(200);
  expect(await ask('/', { Host: 'rebound.example' })).toBe(403);
  const upload = `/api/jobs/${host.jobId}/sources?name=a.wav`;
  expect(await ask(upload, { Origin: 'https://elsewhere.example' }, 'PUT')).toBe(403);
  expect(await ask(upload, { Origin: `http://127.0.0.1:${PORT}` }, 'PUT')).toBe(422);
  expect(await ask(upload, { Origin: 'null' }, 'PUT')).toBe(403);
});

test('errors come as records with a fitting status', async () => {
  const put = (path: string, body: string | Uint8Array<ArrayBuffer>) =>
    fetch(`${served.base}${path}`, { method: 'PUT', body });
  const empty = await put(`/api/jobs/${host.jobId}/sources?name=a.wav`, '');
  expect(empty.status).toBe(422);
  expect(await empty.json()).toMatchObject({
    error: { code: 'empty-file', happened: 'a.wav is empty: it holds no bytes.' },
  });
  expect((await put(`/api/jobs/${host.jobId}/sources`, 'x')).status).toBe(400);
  expect((await put('/api/jobs/none/sources?name=a.wav', 'x')).status).toBe(404);
  for (const path of [
    '/api/deliveries/none/file',
    '/api/deliveries/..%2f..%2fopsimeter.db/file',
    `/api/sources/${'0'.repeat(64)}/trace?columns=10`,
  ]) {
    expect((await fetch(served.base + path)).status).toBe(404);
  }
  expect((await fetch(`${served.base}/api/sources/..%2f..%2flock/trace?columns=10`)).status).toBe(400);
  expect((await fetch(`${served.base}/jobs/none/take-in`)).status).toBe(404);
});

test('several files at once all arrive, and their tasks are told of as they go', async () => {
  const events = await fetch(`${served.base}/api/events`);
  const reader = (events.body as ReadableStream<Uint8Array>).getReader();
  const statuses = await Promise.all(
    Array.from({ length: 8 }, async (_, i) => {
      const samples = tone([{ seconds: 1 + i / 10, levelDbfs: -20 }], 48_000);
      const body = new Uint8Array(wavOf([samples]));
      return (await fetch(`${served.base}/api/jobs/${host.jobId}/sources?name=${i}.wav`, { method: 'PUT', body }))
        .status;
    }),
  );
  expect(statuses).toEqual(Array(8).fill(201));
  const done = new Set<string>();
  let text = '';
  while (done.size < 8) {
    const { value } = await reader.read();
    text += new TextDecoder().decode(value);
    for (const [, json] of text.matchAll(/^data: (.*)\n\n/gm)) {
      const event = JSON.parse(json as string);
      if (event.state === 'done') done.add(event.subjectId);
    }
  }
  await reader.cancel();
});

test('an upload does not grow the server’s memory by its size', async () => {
  const resident = () => served.residentKilobytes();
  const samples = tone([{ seconds: 60, levelDbfs: -20 }], 48_000);
  const piece = new Uint8Array(wavOf([samples]).subarray(44));
  const head = new Uint8Array(wavOf([samples]).subarray(0, 44));
  const pieces = 60;
  new DataView(head.buffer).setUint32(40, piece.length * pieces, true);
  const before = resident();
  let most = before;
  async function* body() {
    yield head;
    for (let sent = 0; sent < pieces; sent++) {
      most = Math.max(most, resident());
      yield piece;
    }
  }
  const status = await new Promise((resolve, reject) => {
    const url = `${served.base}/api/jobs/${host.jobId}/sources?name=large.wav`;
    const sending = request(url, { method: 'PUT', agent: false }, (response) => {
      response.resume();
      resolve(response.statusCode);
    });
    Readable.from(body()).pipe(sending).on('error', reject);
  });
  expect(status).toBe(201);
  const megabytes = (most - before) / 1000;
  console.info(`${((piece.length * pieces) / 1e6).toFixed(0)} MB taken in with ${megabytes.toFixed(0)} MB more memory`);
  expect(megabytes).toBeLessThan(100);
});
