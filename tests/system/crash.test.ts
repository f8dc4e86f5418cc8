/** The server is killed in the middle of its work; after a restart everything is whole. */
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { request } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createDelivery } from '../fixtures/delivering';
import { Served } from '../fixtures/served';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { until } from '../fixtures/until';
import { wavOf } from '../fixtures/wav';

const PORT = 4391;
const RATE = 48_000;
const tenMinutes = tone([{ seconds: 600, levelDbfs: -23 }], RATE);
const LONG = wavOf([tenMinutes]);
const small = tone([{ seconds: 2, levelDbfs: -23 }], RATE);
const SMALL = wavOf([small]);

interface TaskRow {
  kind: string;
  state: string;
  attempts: number;
}

let host: TestServer;
let served: Served;

/** A data folder with one measured programme, then handed to a server of its own. */
beforeEach(async () => {
  host = new TestServer();
  await host.measured(SMALL, 'earlier.wav');
  await host.server.close();
});
afterEach(async () => {
  await served.kill().catch(() => undefined);
  rmSync(host.root, { recursive: true, force: true });
});

const start = async () => {
  served = await Served.start(host.root, PORT);
};

const read = <T>(sql: string) => host.read<T>(sql);
const tasks = (kind: string) =>
  read<TaskRow>(`select kind, state, attempts from tasks where kind = '${kind}' order by created_at_ms`);

const upload = (bytes: Buffer, name: string) =>
  fetch(`${served.base}/api/jobs/${host.jobId}/sources?name=${name}`, { method: 'PUT', body: new Uint8Array(bytes) });

const parts = () => host.files().filter((file) => file.endsWith('.part'));

test('killed during take-in: the half-file is gone, and the file can be taken in again', async () => {
  await start();
  const url = new URL(`${served.base}/api/jobs/${host.jobId}/sources?name=long.wav`);
  const transfer = request(url, { method: 'PUT', headers: { 'Content-Length': LONG.length } });
  transfer.on('error', () => undefined);
  transfer.write(LONG.subarray(0, 20_000_000));
  await until(() => parts().length === 1);
  await served.kill();
  transfer.destroy();
  expect(parts()).toHaveLength(1);

  await start();
  expect(parts()).toEqual([]);
  expect(read('select * from programmes')).toHaveLength(1);
  expect((await upload(LONG, 'long.wav')).status).toBe(201);
  expect(read('select * from programmes')).toHaveLength(2);
});

test('killed while measuring: the task is done again, and what was there is whole', async () => {
  await start();
  const before = read<{ report: string }>('select report from source_reports');
  expect((await upload(LONG, 'long.wav')).status).toBe(201);
  await until(() => tasks('measure')[1]?.state === 'running');
  await served.kill();
  expect(tasks('measure')[1]?.state).toBe('running');

  await start();
  await until(() => tasks('measure')[1]?.state === 'done');
  expect(tasks('measure')[1]?.attempts).toBe(2);
  const reports = read<{ report: string }>('select report from source_reports order by measured_at_ms');
  expect(reports).toHaveLength(2);
  expect(reports[0]).toEqual(before[0]);
  expect(JSON.parse(reports[1]?.report as string).value.readings.integratedLufs).toBeCloseTo(-26, 1);
  expect(parts()).toEqual([]);
});

test('killed while rendering: the delivery is there once, whole and verified, and nothing else', async () => {
  host.server = new (await import('@/server/server')).Server(host.server.folder);
  const { programmeId } = await host.measured(LONG, 'long.wav');
  await createDelivery(host.server, programmeId, 'ebu-r128');
  await host.server.close();

  await start();
  await until(() => parts().length === 1);
  await served.kill();

  await start();
  await until(() => tasks('render')[0]?.state === 'done');
  const [delivery] = read<{ file_name: string; report: string }>('select file_name, report from deliveries');
  const folder = join(host.root, 'deliveries', host.jobId);
  expect(readdirSync(folder)).toEqual([delivery?.file_name]);
  const { createHash } = await import('node:crypto');
  const bytes = readFileSync(join(folder, delivery?.file_name as string));
  expect(createHash('sha256').update(bytes).digest('hex')).toBe(JSON.parse(delivery?.report as string).value.sha256);
});

test('a port that is taken is said in a clear sentence', async () => {
  await start();
  const other = mkdtempSync(join(tmpdir(), 'opsimeter-other-'));
  await expect(Served.start(other, PORT)).rejects.toThrow(/Port 4391 is taken .* PORT=4171/);
  rmSync(other, { recursive: true, force: true });
});
