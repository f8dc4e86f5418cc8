/** Deliveries go to the simulated intakes over real lines: which break off, are slow, refuse, and are killed in the middle. */
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as delay } from 'node:timers/promises';
import { seededRandom } from '@/cli/demo/random';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { addRow } from '@/server/deliveries/rows';
import { writeRow } from '@/server/deliveries/write-row';
import { setConduct } from '@/server/intake/intakes';
import { sign } from '@/server/receivers/signature';
import { Secrets } from '@/server/secrets';
import { Server } from '@/server/server';
import { musicLike } from '../fixtures/material';
import { Served } from '../fixtures/served';
import { TestServer } from '../fixtures/server';
import { askAgain } from '../fixtures/set-aside';
import { tone } from '../fixtures/signals';
import { until } from '../fixtures/until';
import { wavOf } from '../fixtures/wav';

const PORT = 4394;
const KILLS = 4;
const UNTROUBLED = { delaySeconds: 0, refusesAll: false, dropsLeft: 0 };

let host: TestServer;
let served: Served | undefined;

beforeAll(async () => {
  host = new TestServer();
  const { programmeId: music } = await host.measured(wavOf(musicLike()), 'piece.wav');
  const { programmeId: chapter } = await host.measured(wavOf([spoken(), spoken()]), 'chapter.wav');
  const rows = [
    { programmeId: music, receiverId: 'network-desk', specId: 'ebu-r128', format: { kind: 'wav' } },
    { programmeId: music, receiverId: 'feed-folder', specId: 'podcast-stereo', format: { kind: 'mp3' } },
    { programmeId: chapter, receiverId: 'shop-store', specId: 'audiobook-retail', format: { kind: 'mp3' } },
  ] as const;
  for (const { format, ...row } of rows) {
    const levelMode = { kind: 'solved', maxReductionDb: row.programmeId === chapter ? 0 : 6, marginDb: 0 } as const;
    const line = addRow(host.server, { ...row, levelMode, format: deliveryFormatSchema.parse(format) });
    await writeRow(host.server, line.id);
  }
  await host.server.runner.whenIdle();
  setConduct(host.server, 'network-desk', { ...UNTROUBLED, dropsLeft: 2 });
  setConduct(host.server, 'feed-folder', { ...UNTROUBLED, dropsLeft: 2 });
  setConduct(host.server, 'shop-store', { ...UNTROUBLED, delaySeconds: 1, dropsLeft: 3 });
  await host.server.close();
});
afterAll(async () => {
  await served?.kill();
  rmSync(host.root, { recursive: true, force: true });
});

/** Something like speech as an audiobook shop takes it: room at both ends, and hiss far below. */
function spoken(): Float32Array {
  const segments = [{ seconds: 0.8, levelDbfs: -90 }];
  for (let i = 0; i < 8; i++) segments.push({ seconds: 1, levelDbfs: -24 }, { seconds: 0.6, levelDbfs: -90 });
  return tone([...segments, { seconds: 1.5, levelDbfs: -90 }], 48_000, 300);
}

const read = <T>(sql: string) => host.read<T>(sql);

const hashOf = (path: string) => createHash('sha256').update(readFileSync(path)).digest('hex');

test(`over lines that break off, killed ${KILLS} times: each is there once, whole, and accepted`, async () => {
  const seed = Date.now() % 1_000_000;
  const random = seededRandom(seed);
  for (let kill = 0; kill < KILLS; kill++) {
    served = await Served.start(host.root, PORT);
    await delay(1000 * random());
    await served.kill();
  }
  // What three of them ended over is set aside: somebody asks for it again.
  host.server = new Server(host.server.folder);
  const aside = askAgain(host.server);
  await host.server.close();
  console.info(`${aside} set aside`);
  console.info(`seed ${seed}; ${read('select id from transfers where ended_at_ms is not null').length} of 3 had ended`);
  served = await Served.start(host.root, PORT);
  await until(() => read('select id from transfers where ended_at_ms is null').length === 0);

  const answered = "select receiver_id as receiver, state, json_extract(reasons, '$.value') as reasons from transfers";
  expect(read(`${answered} order by receiver_id`)).toEqual([
    { receiver: 'feed-folder', state: 'accepted', reasons: '[]' },
    { receiver: 'network-desk', state: 'accepted', reasons: '[]' },
    { receiver: 'shop-store', state: 'accepted', reasons: '[]' },
  ]);
  const items = read<{ intake_id: string; key: string; manifest: string }>(
    'select intake_id, key, manifest from intake_items',
  );
  expect(items.map(({ intake_id }) => intake_id).sort()).toEqual(['feed-folder', 'network-desk', 'shop-store']);
  for (const { intake_id, key, manifest } of items) {
    const folder = join(host.root, 'intake', intake_id, key);
    const { files } = JSON.parse(manifest).value as { files: { fileName: string; sha256: string }[] };
    const own = intake_id === 'feed-folder' ? ['answer.json', 'delivery.json'] : [];
    expect(readdirSync(folder).sort()).toEqual([...own, ...files.map(({ fileName }) => fileName)].sort());
    for (const { fileName, sha256 } of files) expect(hashOf(join(folder, fileName))).toBe(sha256);
  }
  const log = read<{ text: string }>('select text from transfer_log').map(({ text }) => text);
  expect(log.filter((text) => text === 'accepted')).toHaveLength(3);
});

test('neither pages, nor logs, nor what is sent hold a secret', async () => {
  const secrets = [
    ...read<{ secret: string }>("select secret from receivers where secret <> ''"),
    ...read<{ secret: string }>('select fetch_token as secret from transfers'),
  ].map(({ secret }) => new Secrets().open(secret) ?? secret);
  expect(secrets).toHaveLength(5);
  // Nor does the database, or what lies beside it.
  for (const name of readdirSync(host.root).filter((own) => own.startsWith('opsimeter.db'))) {
    const stored = readFileSync(join(host.root, name), 'latin1');
    for (const secret of secrets.slice(0, 2)) expect(stored).not.toContain(secret);
  }
  const { base } = served as Served;
  const shown = [
    ...(await Promise.all(
      ['network-desk', 'feed-folder', 'shop-store'].map((id) => page(`${base}/receivers?receiver=${id}`)),
    )),
    await page(`${base}/jobs/${host.jobId}/hand-over?programme=all`),
    JSON.stringify(read('select text from transfer_log')),
    JSON.stringify(read('select error from tasks')),
  ];
  expect(shown.some((text) => text.includes('piece_ebu-r128'))).toBe(true);
  for (const secret of secrets) for (const text of shown) expect(text).not.toContain(secret);
});

async function page(url: string): Promise<string> {
  const response = await fetch(url);
  expect(response.status).toBe(200);
  return response.text();
}

test('a desk takes nothing that is not signed for it, now, and as it is', async () => {
  const { base } = served as Served;
  const [desk] = read<{ secret: string }>("select secret from simulated_intakes where id = 'shop-store'");
  const key = 'ab'.repeat(20);
  const ask = (
    name: string,
    init: RequestInit,
    content: string,
    atMs = Date.now(),
    secret = new Secrets().open(desk?.secret ?? '') ?? '',
  ) => {
    const path = `/api/intake/shop-store/objects/${key}/${name}`;
    const signature = sign(secret, { method: init.method ?? 'GET', path, content }, atMs);
    const headers = { ...(init.headers as Record<string, string>), 'X-Content': content, Authorization: signature };
    return fetch(`${base}${path}`, { ...init, headers });
  };
  const empty = createHash('sha256').update('').digest('hex');
  expect((await ask('a.mp3', { method: 'HEAD' }, empty)).status).toBe(404);
  expect((await ask('a.mp3', { method: 'HEAD' }, empty, Date.now() - 600_000)).status).toBe(401);
  expect((await ask('a.mp3', { method: 'HEAD' }, empty, Date.now(), 'guessed')).status).toBe(401);
  expect((await fetch(`${base}/api/intake/shop-store/objects/${key}/a.mp3`, { method: 'HEAD' })).status).toBe(401);
  expect((await fetch(`${base}/api/intake/network-desk/hook`, { method: 'POST', body: '{}' })).status).toBe(401);
  // Signed, but for another body.
  const other = await ask('delivery.json', { method: 'PUT', body: '{"manifest":"other"}' }, empty);
  expect(other.status).toBe(401);
  expect((await other.json()) as object).toMatchObject({ error: { code: 'not-signed' } });
  const part = (range: string, bytes: string) =>
    ask('a.mp3', { method: 'PUT', body: bytes, headers: { 'Content-Range': range } }, empty);
  expect((await part('bytes 4-7/8', 'late')).status).toBe(409);
  expect((await part('bytes 0-9/8', '0123456789')).status).toBe(400);
  expect((await part('bytes 0-1/9000000000', 'ab')).status).toBe(413);
  expect((await part('bytes 0-3/8', 'abcd')).headers.get('X-Received')).toBe('4');
  // The same part once more is not added.
  expect((await part('bytes 0-3/8', 'abcd')).headers.get('X-Received')).toBe('4');
  expect((await part('bytes 4-7/8', 'efgh')).headers.get('X-Received')).toBe('8');
  expect(readFileSync(join(host.root, 'intake/shop-store', key, 'a.mp3'), 'utf8')).toBe('abcdefgh');
  const outside = await ask(encodeURIComponent('../../opsimeter.db'), { method: 'PUT', body: 'x' }, empty);
  expect(outside.status).toBe(400);
  const [transfer] = read<{ id: string; token: string }>(
    "select id, fetch_token as token from transfers where receiver_id = 'network-desk'",
  );
  const fetched = (token: string) => fetch(`${base}/api/transfers/${transfer?.id}/files/0?token=${token}`);
  expect((await fetched('guessed')).status).toBe(404);
  const file = Buffer.from(await (await fetched(transfer?.token ?? '')).arrayBuffer());
  expect(file.subarray(0, 4).toString()).toBe('RIFF');
});
