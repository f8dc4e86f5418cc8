/** Where the disk takes no more, each way of saving something says so with 507 and in words, and leaves nothing half-written. */
import { execFileSync } from 'node:child_process';
import { readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { addRow } from '@/server/deliveries/rows';
import { exportJob } from '@/server/jobs/export-job';
import { Served } from '../fixtures/served';
import { TestServer } from '../fixtures/server';
import { stereo, tone } from '../fixtures/signals';
import { until } from '../fixtures/until';
import { wavOf } from '../fixtures/wav';

const PORT = 4399;
/** Above the database as it is at first, below everything that is sent here. */
const MOST_KILOBYTES = 3000;

let host: TestServer;
let served: Served;
let programmeId: string;
let flacRowId: string;
let zip: Buffer;
const wav = (seconds: number) =>
  new Uint8Array(wavOf(stereo(tone([{ seconds, levelDbfs: -20 }], 48_000)), { bits: 24 }));
/** Noise, that no codec makes small. */
const noise = (name: string, ...filter: string[]) => {
  const path = join(host.root, name);
  execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', ...filter, path]);
  const bytes = readFileSync(path);
  rmSync(path);
  return bytes;
};

beforeAll(async () => {
  host = new TestServer();
  const bytes = noise('noise.wav', 'anoisesrc=d=30:a=0.05:r=48000,aformat=channel_layouts=stereo');
  ({ programmeId } = await host.measured(bytes, 'noise.wav'));
  flacRowId = addRow(host.server, {
    programmeId,
    specId: 'ebu-r128',
    format: deliveryFormatSchema.parse({ kind: 'flac' }),
    levelMode: { kind: 'as-set' },
  }).id;
  const pieces: Buffer[] = [];
  for await (const piece of (await exportJob(host.server, host.jobId)).body) pieces.push(piece as Buffer);
  zip = Buffer.concat(pieces);
  await host.server.close();
  served = await Served.start(host.root, PORT, {}, MOST_KILOBYTES);
});
afterAll(async () => {
  await served.kill();
  rmSync(host.root, { recursive: true, force: true });
});

/** Where a body was refused, its connection is not used again. */
const ALONE = { Connection: 'close' };

/** That it is refused for want of room, in the words of a record. */
async function refusedFor(answer: Response): Promise<void> {
  const { error } = (await answer.json()) as { error: { code: string; happened: string; todo: string } };
  expect(`${answer.status} ${error.code}`).toMatch(/^507 (disk-full|not-writable)$/);
  expect(error.happened).toMatch(/disk|larger than this disk/);
  expect(error.todo).not.toBe('');
}

test('a file, in one piece', async () => {
  const body = wav(60);
  await refusedFor(
    await fetch(`${served.base}/api/jobs/${host.jobId}/sources?name=a.wav`, { method: 'PUT', headers: ALONE, body }),
  );
});

test('a file that goes on after an interruption', async () => {
  const encoded = (text: string) => Buffer.from(text).toString('base64');
  const headers = { 'Tus-Resumable': '1.0.0' };
  const body = wav(60);
  const created = await fetch(`${served.base}/api/uploads`, {
    method: 'POST',
    headers: {
      ...headers,
      'Upload-Length': String(body.length),
      'Upload-Metadata': `jobId ${encoded(host.jobId)},fileName ${encoded('b.wav')}`,
    },
  });
  expect(created.status).toBe(201);
  const url = `${served.base}${created.headers.get('location')}`;
  await refusedFor(
    await fetch(url, {
      method: 'PATCH',
      headers: { ...headers, ...ALONE, 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' },
      body,
    }),
  );
  // What has arrived stays, and goes on once there is room.
  const offset = Number((await fetch(url, { method: 'HEAD', headers })).headers.get('upload-offset'));
  expect(offset).toBe(MOST_KILOBYTES * 1024);
  expect((await fetch(url, { method: 'DELETE', headers })).status).toBe(204);
});

test('a cover', async () => {
  const body = noise('cover.png', 'nullsrc=s=1500x1500,geq=random(1)*255:128:128', '-frames:v', '1');
  expect(body.length).toBeGreaterThan(MOST_KILOBYTES * 1024);
  const answer = await fetch(`${served.base}/api/programmes/${programmeId}/cover`, {
    method: 'PUT',
    headers: ALONE,
    body: new Uint8Array(body),
  });
  await refusedFor(answer);
});

test('a job from its ZIP', async () => {
  const answer = await fetch(`${served.base}/api/jobs/import?name=a.zip`, {
    method: 'PUT',
    headers: ALONE,
    body: new Uint8Array(zip),
  });
  await refusedFor(answer);
});

test('a FLAC file that FFmpeg writes', async () => {
  const ordered = await fetch(`${served.base}/api/rows/${flacRowId}/write`, { method: 'POST', body: '{}' });
  expect(ordered.status).toBe(202);
  await until(() => host.read("select 1 from tasks where kind = 'render' and state = 'failed'").length > 0);
  const [{ error } = { error: '' }] = host.read<{ error: string }>("select error from tasks where kind = 'render'");
  expect(JSON.parse(error)).toMatchObject({ value: { code: 'not-writable', happened: expect.stringMatching(/disk/) } });
});

test('the database; and once there is room, everything goes on', async () => {
  const create = () =>
    fetch(`${served.base}/api/jobs`, { method: 'POST', body: JSON.stringify({ name: 'x'.repeat(120) }) });
  let acknowledged = 0;
  let answer = await create();
  for (; answer.status === 201; answer = await create()) acknowledged++;
  await refusedFor(answer);
  const left = host.files().filter((name) => /part$|^incoming|^uploads|^covers|^deliveries/.test(name));
  expect(left).toEqual([]);
  await served.kill();
  expect(host.read('pragma integrity_check')).toEqual([{ integrity_check: 'ok' }]);
  const [{ n } = { n: 0 }] = host.read<{ n: number }>("select count(*) as n from jobs where name like 'xxx%'");
  expect(n).toBe(acknowledged);
  served = await Served.start(host.root, PORT);
  expect((await create()).status).toBe(201);
  const body = wav(60);
  const put = await fetch(`${served.base}/api/jobs/${host.jobId}/sources?name=a.wav`, { method: 'PUT', body });
  expect(put.status).toBe(201);
});
