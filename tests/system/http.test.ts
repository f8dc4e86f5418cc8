/** The server's outer edge: who it answers to, and how it says no. */

import { rmSync } from 'node:fs';
import { request } from 'node:http';
import { connect } from 'node:net';
import { Readable } from 'node:stream';
import { setTimeout } from 'node:timers/promises';
import { gainOnly, preparationOf } from '@/core/treatment/treatment';
import { Served } from '../fixtures/served';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const PORT = 4392;
const PLAIN = encodeURIComponent(JSON.stringify(preparationOf(gainOnly(0))));
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

/** Sends bytes as they are; returns the status of the answer. */
async function askBytes(text: string): Promise<number> {
  const socket = connect(PORT, '127.0.0.1');
  socket.write(text);
  let answer = '';
  for await (const bytes of socket) {
    answer += bytes;
    if (answer.includes('\r\n')) break;
  }
  socket.destroy();
  return Number(answer.split(' ')[1]);
}

test('what is no request of this app is refused as such', async () => {
  expect(await ask('/', {}, 'TRACE')).toBe(405);
  expect(await ask('/api/jobs/%ff', {})).toBe(400);
  expect(await ask('/jobs/%E0%A4%A/take-in', {})).toBe(400);
  const host = `Host: 127.0.0.1:${PORT}\r\n`;
  expect(await askBytes(`GET / HTTP/1.1\r\n${host}Connection: close\r\n\r\n`)).toBe(200);
  // One that says two names may be taken for either by what stands in between.
  expect(await askBytes(`GET / HTTP/1.1\r\n${host}Host: rebound.example\r\nConnection: close\r\n\r\n`)).toBe(403);
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
  for (const path of ['/api/deliveries/none/file', `/api/programmes/none/trace?columns=10&preparation=${PLAIN}`]) {
    expect((await fetch(served.base + path)).status).toBe(404);
  }
  // What is no id is no address either.
  expect((await fetch(`${served.base}/api/deliveries/..%2f..%2fopsimeter.db/file`)).status).toBe(400);
  for (const route of [
    'trace?columns=10',
    'frames?startFrame=0&frames=1',
    'reduction?startFrame=0&frames=1',
    'limiter',
  ]) {
    const answer = await fetch(`${served.base}/api/programmes/none/${route}`);
    expect(answer.status).toBe(400);
    expect(await answer.json()).toMatchObject({ error: { code: 'bad-request' } });
  }
  expect((await fetch(`${served.base}/jobs/none/take-in`)).status).toBe(404);
});

test('twenty files at once all arrive; meanwhile readings are there, and tasks are told of', async () => {
  const put = (name: string, body: Uint8Array<ArrayBuffer>) =>
    fetch(`${served.base}/api/jobs/${host.jobId}/sources?name=${name}.wav`, { method: 'PUT', body });
  const wav = (seconds: number) => new Uint8Array(wavOf([tone([{ seconds, levelDbfs: -20 }], 48_000)]));
  const events = await fetch(`${served.base}/api/events`);
  const reader = (events.body as ReadableStream<Uint8Array>).getReader();
  const done = new Set<string>();
  let text = '';
  const untilDone = async (count: number) => {
    while (done.size < count) {
      text += new TextDecoder().decode((await reader.read()).value);
      for (const [, json] of text.matchAll(/^data: (.*)\n\n/gm)) {
        const event = JSON.parse(json as string);
        if (event.state === 'done') done.add(event.subjectId);
      }
    }
  };
  const first = (await (await put('first', wav(2))).json()) as { programmeId: string };
  await untilDone(1);

  const files = Array.from({ length: 20 }, (_, i) => wav(20 + i / 10));
  // Making them took long enough for the server to have closed what it had open.
  await setTimeout(10);
  let isUploading = true;
  const uploads = Promise.all(files.map((bytes, i) => put(`file ${i}`, bytes))).finally(() => {
    isUploading = false;
  });
  const waits: number[] = [];
  while (isUploading) {
    const startedMs = performance.now();
    const readings = await fetch(
      `${served.base}/api/programmes/${first.programmeId}/trace?columns=100&preparation=${PLAIN}`,
    );
    expect(readings.status).toBe(200);
    await readings.arrayBuffer();
    waits.push(performance.now() - startedMs);
  }
  expect((await uploads).map(({ status }) => status)).toEqual(Array(20).fill(201));
  console.info(`readings ${waits.length} times meanwhile, after ${Math.max(...waits).toFixed(0)} ms at most`);
  expect(waits.length).toBeGreaterThan(0);
  await untilDone(21);
  await reader.cancel();
  const page = await (await fetch(`${served.base}/jobs/${host.jobId}/take-in`)).text();
  for (let i = 0; i < 20; i++) expect(page).toContain(`file ${i}.wav`);
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
    const transfer = request(url, { method: 'PUT', agent: false }, (response) => {
      response.resume();
      resolve(response.statusCode);
    });
    Readable.from(body()).pipe(transfer).on('error', reject);
  });
  expect(status).toBe(201);
  const megabytes = (most - before) / 1000;
  console.info(`${((piece.length * pieces) / 1e6).toFixed(0)} MB taken in with ${megabytes.toFixed(0)} MB more memory`);
  expect(megabytes).toBeLessThan(100);
});
