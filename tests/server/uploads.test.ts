/** Uploads that go on where they were interrupted: the tus protocol 1.0, spoken as its clients do. */
import { createHash } from 'node:crypto';
import { readFileSync, utimesSync } from 'node:fs';
import { join } from 'node:path';
import { viewJob } from '@/server/jobs/jobs';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const BASE = 'http://127.0.0.1:4170/api/uploads';
const wav = new Uint8Array(wavOf([tone([{ seconds: 3, levelDbfs: -20 }], 48_000)]));

let host: TestServer;
beforeEach(() => {
  host = new TestServer();
});
afterEach(() => host.remove());

const encoded = (text: string) => Buffer.from(text).toString('base64');
function ask(method: string, url: string, headers: Record<string, string> = {}, body?: BodyInit): Promise<Response> {
  const init = { method, headers: { 'Tus-Resumable': '1.0.0', ...headers }, duplex: 'half' };
  return host.server.uploads.handle(new Request(url, body === undefined ? init : { ...init, body }));
}
async function create(bytes: number, { jobId = host.jobId, fileName = 'mix.wav' } = {}): Promise<string> {
  const response = await ask('POST', BASE, {
    'Upload-Length': String(bytes),
    'Upload-Metadata': `jobId ${encoded(jobId)},fileName ${encoded(fileName)}`,
  });
  expect(response.status).toBe(201);
  return new URL(response.headers.get('location') as string, BASE).href;
}
const send = (url: string, offset: number, bytes: Uint8Array<ArrayBuffer>) =>
  ask('PATCH', url, { 'Upload-Offset': String(offset), 'Content-Type': 'application/offset+octet-stream' }, bytes);
const offsetOf = async (url: string) => Number((await ask('HEAD', url)).headers.get('upload-offset'));
/** As after a crash: the process is another one, over the same folder. */
async function restart(): Promise<void> {
  await host.server.close();
  host.server = new Server(new DataFolder(host.root));
}

test('a file sent in three parts, with the server started again between them, is taken in once', async () => {
  const url = await create(wav.length);
  expect((await send(url, 0, wav.slice(0, 100_000))).status).toBe(204);
  await restart();
  expect(await offsetOf(url)).toBe(100_000);
  expect((await send(url, 100_000, wav.slice(100_000, 200_000))).status).toBe(204);
  await restart();
  const last = await send(url, 200_000, wav.slice(200_000));
  expect(last.status).toBe(200);
  const sha256 = createHash('sha256').update(wav).digest('hex');
  expect(await last.json()).toMatchObject({ sha256, alreadyThere: false, title: 'mix' });
  expect(readFileSync(join(host.root, 'sources', sha256)).equals(wav)).toBe(true);
  await host.server.runner.whenIdle();
  expect(viewJob(host.server, host.jobId).programmes).toHaveLength(1);
  expect(host.files().filter((name) => name.startsWith('uploads'))).toEqual([]);
});

test('the same bytes again are recognised', async () => {
  await host.measured(wav, 'first.wav');
  const answer = await send(await create(wav.length), 0, wav.slice());
  expect(await answer.json()).toMatchObject({ alreadyThere: true, title: 'first' });
});

test('an offset that does not fit is refused, and what has arrived stays', async () => {
  const url = await create(wav.length);
  await send(url, 0, wav.slice(0, 1000));
  expect((await send(url, 500, wav.slice(500, 1500))).status).toBe(409);
  expect(await offsetOf(url)).toBe(1000);
});

test('what is not sound is refused in words when it is whole, and leaves nothing', async () => {
  const bytes = new TextEncoder().encode('Take 3 was better. '.repeat(50));
  const answer = await send(await create(bytes.length, { fileName: 'notes.wav' }), 0, bytes);
  expect(answer.status).toBe(422);
  expect(await answer.json()).toMatchObject({ error: { code: 'not-audio' } });
  expect(host.files()).toEqual([]);
});

test('a file for a job that is not there, or without a name, is not begun', async () => {
  const metadata = `jobId ${encoded('none')},fileName ${encoded('mix.wav')}`;
  expect((await ask('POST', BASE, { 'Upload-Length': '5', 'Upload-Metadata': metadata })).status).toBe(404);
  expect((await ask('POST', BASE, { 'Upload-Length': '5', 'Upload-Metadata': `jobId ${encoded('x')}` })).status).toBe(
    400,
  );
  expect(host.files()).toEqual([]);
});

test('one that was given up is gone, and no name leads out of its folder', async () => {
  const url = await create(wav.length);
  await send(url, 0, wav.slice(0, 1000));
  expect((await ask('DELETE', url)).status).toBe(204);
  expect(host.files()).toEqual([]);
  expect((await ask('HEAD', `${BASE}/..%2Fopsimeter.db`)).status).toBe(404);
});

test('what nobody goes on with for a day is cleared away; what has come later is not', async () => {
  const [old, young] = [await create(wav.length), await create(wav.length)];
  for (const url of [old, young]) await send(url, 0, wav.slice(0, 1000));
  const file = (url: string) => join(host.root, 'uploads', url.slice(url.lastIndexOf('/') + 1));
  const hoursAgo = (hours: number) => Date.now() / 1000 - hours * 3600;
  utimesSync(file(old), hoursAgo(25), hoursAgo(25));
  utimesSync(file(young), hoursAgo(23), hoursAgo(23));
  await host.server.uploads.sweep();
  expect((await ask('HEAD', old)).status).toBe(404);
  expect(await offsetOf(young)).toBe(1000);
  expect(host.files()).toHaveLength(2);
});

test('one that was whole when the process ended is taken in by the next', async () => {
  const url = await create(wav.length);
  await send(url, 0, wav.slice(0, wav.length - 1));
  const id = url.slice(url.lastIndexOf('/') + 1);
  await host.server.close();
  const { appendFileSync } = await import('node:fs');
  appendFileSync(join(host.root, 'uploads', id), wav.slice(-1));
  host.server = new Server(new DataFolder(host.root));
  await host.server.close();
  host.server = new Server(new DataFolder(host.root));
  await host.server.runner.whenIdle();
  expect(viewJob(host.server, host.jobId).programmes).toMatchObject([{ title: 'mix', measured: expect.anything() }]);
  expect(host.files().filter((name) => name.startsWith('uploads'))).toEqual([]);
});
