/** One row, one file: however often it is asked for, whoever dies in between, and whatever happens to bytes on the disk. */
import { appendFileSync, existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { isAppError } from '@/core/errors/app-error';
import { issuedCertificate, issuedCertificates } from '@/server/certificates/certificate';
import { downloadDelivery } from '@/server/deliveries/download';
import { addRow } from '@/server/deliveries/rows';
import { solveAgain, writeRow } from '@/server/deliveries/write-row';
import { viewJob } from '@/server/jobs/jobs';
import { addReceiver } from '@/server/receivers/receivers';
import { viewTransfer } from '@/server/receivers/transfer-view';
import { sendDelivery } from '@/server/receivers/transfers';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { saveTreatment } from '@/server/treatments/treatments';
import { TestServer } from '../fixtures/server';
import { stereo, tone } from '../fixtures/signals';
import { until } from '../fixtures/until';
import { wavOf } from '../fixtures/wav';

const WAV = deliveryFormatSchema.parse({ kind: 'wav' });
const SOURCE = wavOf(stereo(tone([{ seconds: 4, levelDbfs: -23 }], 48_000)));

let host: TestServer;
let programmeId: string;
let sha256: string;
beforeEach(async () => {
  host = new TestServer();
  ({ programmeId, sha256 } = await host.measured(SOURCE));
});
afterEach(() => host.remove());

const add = (receiverId: string | null = null) =>
  addRow(host.server, { programmeId, specId: 'ebu-r128', format: WAV, levelMode: { kind: 'as-set' }, receiverId }).id;
const deliveriesOf = () => viewJob(host.server, host.jobId).programmes[0]?.deliveries ?? [];
const written = () => {
  const folder = join(host.root, 'deliveries', host.jobId);
  return existsSync(folder) ? readdirSync(folder) : [];
};
const pathOf = (fileName: string) => join(host.root, 'deliveries', host.jobId, fileName);
const codeOf = async (work: () => unknown) => {
  try {
    await work();
    return 'none';
  } catch (error) {
    return isAppError(error) ? error.code : String(error);
  }
};

test('ten who ask at once have one file written, and one arrival at the receiver', async () => {
  const folder = join(host.root, 'playout');
  mkdirSync(folder);
  process.env.OPSIMETER_DROP_FOLDERS = host.root;
  const receiver = addReceiver(host.server, { name: 'Playout', kind: 'drop-folder', address: folder });
  const rowId = add(receiver.id);
  const ids = await Promise.all(Array.from({ length: 10 }, () => writeRow(host.server, rowId)));
  expect(new Set(ids).size).toBe(1);
  await host.server.runner.whenIdle();
  expect(written()).toHaveLength(1);
  expect(deliveriesOf()).toHaveLength(1);
  await until(() => readdirSync(folder).length > 0);
  expect(readdirSync(folder)).toHaveLength(1);
});

test('a row can be written again, once the first is there', async () => {
  const rowId = add();
  const first = await writeRow(host.server, rowId);
  await host.server.runner.whenIdle();
  expect(await writeRow(host.server, rowId)).not.toBe(first);
  await host.server.runner.whenIdle();
  expect(written()).toHaveLength(2);
});

test('the database itself holds a row to one open delivery', async () => {
  const rowId = add();
  await writeRow(host.server, rowId);
  await host.server.runner.whenIdle();
  const db = new Database(join(host.root, 'opsimeter.db'));
  const columns = (db.pragma('table_info(deliveries)') as { name: string }[]).map(({ name }) => name);
  const copy = (id: string) => {
    const values = columns.map((name) =>
      name === 'id' || name === 'file_name' ? `'${id}'` : name === 'state' ? "'open'" : name,
    );
    db.exec(`INSERT INTO deliveries (${columns.join(', ')}) SELECT ${values.join(', ')} FROM deliveries LIMIT 1`);
  };
  copy('one');
  expect(() => copy('two')).toThrow(/UNIQUE/);
  db.close();
});

test('a file that misses goes only once its successor is there, and ten who solve again make one', async () => {
  saveTreatment(host.server, programmeId, { gainDb: 6 });
  const rowId = add();
  const missed = await writeRow(host.server, rowId);
  await host.server.runner.whenIdle();
  const [before] = written();
  const ids = await Promise.all(Array.from({ length: 10 }, () => solveAgain(host.server, missed)));
  expect(new Set(ids).size).toBe(1);
  // Until the new one is written, what there was is there.
  expect(existsSync(pathOf(before as string))).toBe(true);
  await host.server.runner.whenIdle();
  expect(deliveriesOf()).toMatchObject([
    { id: ids[0], written: { verdict: { inside: true } } },
    { id: missed, isDiscarded: true },
  ]);
  expect(written()).toHaveLength(1);
  expect(existsSync(pathOf(before as string))).toBe(false);
});

test('a successor that can not be written leaves what there was', async () => {
  saveTreatment(host.server, programmeId, { gainDb: 6 });
  const missed = await writeRow(host.server, add());
  await host.server.runner.whenIdle();
  const sourcePath = host.server.folder.source(sha256);
  const bytes = readFileSync(sourcePath);
  bytes[bytes.length - 9] = (bytes[bytes.length - 9] ?? Number.NaN) ^ 1;
  writeFileSync(sourcePath, bytes);
  await solveAgain(host.server, missed);
  await host.server.runner.whenIdle();
  const old = deliveriesOf().find(({ id }) => id === missed);
  expect(old).toMatchObject({ isDiscarded: false });
  expect(existsSync(pathOf(old?.fileName as string))).toBe(true);
});

test('a row whose task was never recorded, or was lost, is written by the next process', async () => {
  const rowId = add();
  const id = await writeRow(host.server, rowId);
  await host.server.runner.whenIdle();
  const [fileName] = written();
  await host.server.close();
  const db = new Database(join(host.root, 'opsimeter.db'));
  // As an older version left it, killed between the row and its task.
  db.exec(`UPDATE deliveries SET state = 'open', written_at_ms = NULL, report = NULL, verdict = NULL, outcome = NULL`);
  db.exec(`DELETE FROM tasks WHERE kind = 'render'`);
  db.close();
  host.server = new Server(new DataFolder(host.root));
  await host.server.runner.whenIdle();
  expect(deliveriesOf()).toMatchObject([{ id, fileName, written: { verdict: { inside: true } } }]);
  expect(await writeRow(host.server, rowId)).not.toBe(id);
  await host.server.runner.whenIdle();
});

test('a source whose stored bytes were changed is not written from: the row says so', async () => {
  const path = host.server.folder.source(sha256);
  const bytes = readFileSync(path);
  bytes[5000] = (bytes[5000] ?? Number.NaN) ^ 0x40;
  writeFileSync(path, bytes);
  await writeRow(host.server, add());
  await host.server.runner.whenIdle();
  expect(written()).toEqual([]);
  expect(deliveriesOf()[0]?.task).toMatchObject({ state: 'failed', error: { code: 'source-damaged' } });
});

test('a written file whose bytes were changed is neither given away, certified nor sent', async () => {
  const folder = join(host.root, 'playout');
  mkdirSync(folder);
  const id = await writeRow(host.server, add());
  await host.server.runner.whenIdle();
  const fileName = deliveriesOf()[0]?.fileName as string;
  const whole = readFileSync(pathOf(fileName));
  await expect(issuedCertificate(host.server, id)).resolves.toMatchObject({ inside: true });
  appendFileSync(pathOf(fileName), 'x');
  expect(await codeOf(() => downloadDelivery(host.server, id))).toBe('delivery-altered');
  expect(await codeOf(() => issuedCertificate(host.server, id))).toBe('delivery-altered');
  expect(await codeOf(() => issuedCertificates(host.server, host.jobId))).toBe('delivery-altered');
  process.env.OPSIMETER_DROP_FOLDERS = host.root;
  const receiver = addReceiver(host.server, { name: 'Playout', kind: 'drop-folder', address: folder });
  const transferId = sendDelivery(host.server, id, receiver.id);
  await host.server.runner.whenIdle();
  expect(readdirSync(folder)).toEqual([]);
  expect(viewTransfer(host.server, transferId).task?.error).toMatchObject({ code: 'delivery-altered' });
  // One bit, at the same length.
  whole[4000] = (whole[4000] ?? Number.NaN) ^ 1;
  writeFileSync(pathOf(fileName), whole);
  expect(await codeOf(() => downloadDelivery(host.server, id))).toBe('delivery-altered');
  whole[4000] = (whole[4000] ?? Number.NaN) ^ 1;
  writeFileSync(pathOf(fileName), whole);
  expect(await codeOf(async () => (await downloadDelivery(host.server, id)).fileName)).toBe('none');
});
