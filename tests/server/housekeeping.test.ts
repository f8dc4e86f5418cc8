/** What only grows is brought back to its limits; what a person has, or a certificate names, never goes unasked. */
import { existsSync, mkdirSync, readdirSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import { certificateOf } from '@/server/certificates/certificate';
import { lineSeconds, sourceReports, tasks } from '@/server/db/schema';
import { addRow } from '@/server/deliveries/rows';
import { writeRow } from '@/server/deliveries/write-row';
import { deleteJob, listDeletedJobs, restoreJob } from '@/server/jobs/delete-job';
import { listJobs } from '@/server/jobs/job-list';
import { createJob, viewJob } from '@/server/jobs/jobs';
import { addMarker } from '@/server/jobs/markers';
import { createLineUp } from '@/server/line-ups/line-ups';
import { addLine } from '@/server/lines/lines';
import { takeIn } from '@/server/take-in/take-in';
import { saveTreatment } from '@/server/treatments/treatments';
import { code } from '../fixtures/error-code';
import { TestServer } from '../fixtures/server';
import { stereo, tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const DAY_MS = 24 * 3_600_000;
const HOUR_S = 3600;
let host: TestServer;
/** The clock of the server is set on; files are as old as their times say. */
let laterMs = 0;
beforeEach(() => {
  laterMs = 0;
  host = new TestServer();
  Object.assign(host.server, { clock: { now: () => Date.now() + laterMs } });
});
afterEach(() => host.remove());

const wav = (levelDbfs: number) => wavOf(stereo(tone([{ seconds: 2, levelDbfs }], 48_000)));
const agedBy = (path: string, hours: number) => {
  const atS = Date.now() / 1000 - hours * HOUR_S;
  utimesSync(path, atS, atS);
};
const put = (name: string, bytes: number, hours: number) => {
  const path = join(host.root, name);
  mkdirSync(join(path, '..'), { recursive: true });
  writeFileSync(path, new Uint8Array(bytes));
  agedBy(path, hours);
  return path;
};

async function written(programmeId: string): Promise<string> {
  const row = addRow(host.server, {
    programmeId,
    specId: 'ebu-r128',
    format: deliveryFormatSchema.parse({ kind: 'wav' }),
    levelMode: { kind: 'as-set' },
  });
  const deliveryId = await writeRow(host.server, row.id);
  await host.server.runner.whenIdle();
  return deliveryId;
}

test('what nobody needs goes, a day later; all that anybody has stays', async () => {
  const { programmeId } = await host.measured(wav(-23));
  const deliveryId = await written(programmeId);
  const before = host.files();
  const sha = (digit: string) => digit.repeat(64);
  const gone = [
    put(`sources/${sha('a')}`, 100, 25),
    put(`decoded/${sha('a')}.1.wav`, 100, 25),
    put(`prepared/${sha('a')}.${ENGINE_VERSION}.key.bin`, 100, 25),
    put(`analysis/${sha('a')}.${ENGINE_VERSION}.bin`, 100, 25),
    put(`analysis/${before[0]?.slice('analysis/'.length, 'analysis/'.length + 64)}.0.0.1.bin`, 100, 25),
    put('deliveries/none/a.wav', 100, 25),
    put('records/none/A record/a.wav', 100, 25),
    // Sent, and never said to be whole.
    put('intake/shop-store/none/a.wav.coming', 100, 8 * 24),
  ];
  const young = [
    put(`sources/${sha('b')}`, 100, 23),
    put('deliveries/import/a.wav', 100, 23),
    put('intake/shop-store/none/b.wav', 100, 6 * 24),
  ];
  await host.server.house.sweep();
  expect(gone.filter(existsSync)).toEqual([]);
  expect(young.filter((path) => !existsSync(path))).toEqual([]);
  expect(before.filter((name) => !existsSync(join(host.root, name)))).toEqual([]);
  expect(certificateOf(host.server, deliveryId).files).toHaveLength(1);
  // Years later as well, however often.
  laterMs = 1000 * DAY_MS;
  await host.server.house.sweep();
  await host.server.house.free(['sources', 'analysis', 'deliveries', 'records', 'reviews', 'covers']);
  expect(before.filter((name) => !existsSync(join(host.root, name)))).toEqual([]);
});

test('what can be made again has a budget, and what was used last stays', async () => {
  const { sha256 } = await host.measured(wav(-23));
  const file = (name: string, hours: number) => put(`${name.replace('SHA', sha256)}`, 1_000_000, hours);
  const [oldest, old, used] = [
    file('decoded/SHA.1.wav', 9),
    file('decoded/SHA.2.wav', 8),
    file('decoded/SHA.3.wav', 1),
  ];
  // What is prepared of one source is used together: the time of the one speaks for the other.
  const prepared = [file('prepared/SHA.key.wav', 100), file(`prepared/SHA.${ENGINE_VERSION}.key.json`, 2)];
  process.env.OPSIMETER_CACHE_GB = '0.0035';
  try {
    expect(await host.server.house.sweep()).toBe(2_000_000);
    expect([oldest, old, used, ...prepared].map(existsSync)).toEqual([false, false, true, true, true]);
    process.env.OPSIMETER_CACHE_GB = '0';
    const justNow = file('decoded/SHA.4.wav', 0.1);
    await host.server.house.sweep();
    expect([used, ...prepared, justNow].map(existsSync)).toEqual([false, false, false, true]);
  } finally {
    delete process.env.OPSIMETER_CACHE_GB;
  }
});

test('the page of what takes space counts every file, and frees what it says', async () => {
  const { sha256 } = await host.measured(wav(-23));
  put(`decoded/${sha256}.1.wav`, 5000, 2);
  const views = await host.server.house.view();
  const counted = views.reduce((sum, { files }) => sum + files, 0);
  const databases = readdirSync(host.root).filter((name) => name.startsWith('opsimeter.db')).length;
  expect(counted).toBe(host.files().length + databases);
  expect(views.find(({ kind }) => kind === 'decoded')).toMatchObject({ files: 1, bytes: 5000, freeableBytes: 5000 });
  expect(views.find(({ kind }) => kind === 'sources')).toMatchObject({
    bytes: statSync(join(host.root, 'sources', sha256)).size,
    freeableBytes: 0,
  });
  expect(await host.server.house.free(['decoded', 'sources', 'database'])).toBe(5000);
  expect(host.files().some((name) => name.startsWith('decoded/'))).toBe(false);
});

test('rows that newer ones have replaced go after a while; the newest of each stays', async () => {
  const { sha256 } = await host.measured(wav(-23));
  const { db, queue, runner } = host.server;
  for (let k = 0; k < 3; k++) {
    queue.enqueue('measure', sha256);
    runner.wake();
    await runner.whenIdle();
  }
  const [report] = db.select().from(sourceReports).all();
  if (report)
    db.insert(sourceReports)
      .values({ ...report, engineVersion: '0.0.1' })
      .run();
  const lineId = addLine(host.server, {
    name: 'Line',
    jobId: host.jobId,
    input: { kind: 'simulated', faults: [] },
    specId: 'ebu-r128',
    plannedSeconds: null,
    alarms: {},
  });
  const nowS = Math.floor(Date.now() / 1000);
  for (const atS of [nowS - 36 * 86_400, nowS - 34 * 86_400]) {
    db.insert(lineSeconds).values({ lineId, atS, state: 'inside' }).run();
  }
  await host.server.house.sweep();
  expect(db.select().from(tasks).all()).toHaveLength(4);
  expect(db.select().from(lineSeconds).all()).toHaveLength(1);
  expect(
    db
      .select()
      .from(sourceReports)
      .all()
      .map(({ engineVersion }) => engineVersion),
  ).toEqual([ENGINE_VERSION]);
  laterMs = 31 * DAY_MS;
  await host.server.house.sweep();
  expect(db.select().from(tasks).all()).toHaveLength(1);
});

describe('a job that is deleted', () => {
  async function filled(): Promise<{ jobId: string; programmeId: string; sha256: string }> {
    const { programmeId, sha256 } = await host.measured(wav(-23));
    const { jobId } = host;
    addMarker(host.server, programmeId, { startFrame: 100, endFrame: null, name: 'Cue' });
    saveTreatment(host.server, programmeId, { gainDb: 1 });
    createLineUp(host.server, jobId, { kind: 'batch', name: 'All', members: [{ programmeId, gapSeconds: 1 }] });
    await written(programmeId);
    return { jobId, programmeId, sha256 };
  }

  test('is shown nowhere, and is as it was when it is restored within a week', async () => {
    const { jobId } = await filled();
    const before = viewJob(host.server, jobId);
    const files = host.files();
    deleteJob(host.server, jobId);
    expect(listJobs(host.server)).toEqual([]);
    expect(await code(() => viewJob(host.server, jobId))).toBe('not-found');
    expect(await code(() => deleteJob(host.server, jobId))).toBe('not-found');
    expect(await code(() => host.takeIn(wav(-20)))).toBe('not-found');
    expect(listDeletedJobs(host.server).map(({ id }) => id)).toEqual([jobId]);
    laterMs = 7 * DAY_MS - 60_000;
    await host.server.house.sweep();
    restoreJob(host.server, jobId);
    expect(viewJob(host.server, jobId)).toEqual(before);
    expect(host.files()).toEqual(files);
    expect(await code(() => restoreJob(host.server, jobId))).toBe('not-found');
  });

  test('goes for good after a week, with all its rows and files, but for what another job has', async () => {
    const { jobId, sha256 } = await filled();
    const own = await host.takeIn(wav(-30), 'own.wav');
    await host.server.runner.whenIdle();
    const otherId = createJob(host.server, 'Other');
    async function* body() {
      yield wav(-23);
    }
    await takeIn(host.server, { jobId: otherId, fileName: 'same.wav', body: body() });
    deleteJob(host.server, jobId);
    laterMs = 7 * DAY_MS + 60_000;
    await host.server.house.sweep();
    // The file of a source goes with the sweep after the one that forgets it; it is as old as its times say.
    for (const name of host.files()) agedBy(join(host.root, name), 30);
    await host.server.house.sweep();
    expect(await code(() => restoreJob(host.server, jobId))).toBe('not-found');
    expect(listJobs(host.server).map(({ id }) => id)).toEqual([otherId]);
    const left = host.files();
    expect(left).toContain(`sources/${sha256}`);
    expect(left.filter((name) => name.includes(own.sha256) || name.startsWith('deliveries'))).toEqual([]);
    const tables = host.read<{ name: string }>("select name from sqlite_master where type = 'table'");
    for (const { name } of tables.filter((table) => !/^(sqlite|__)/.test(table.name))) {
      const rows = JSON.stringify(host.read(`select * from "${name}"`));
      expect(`${name}: ${rows.includes(jobId)}`).toBe(`${name}: false`);
    }
    expect(host.server.db.$client.pragma('foreign_key_check')).toEqual([]);
    expect(viewJob(host.server, otherId).programmes[0]?.measured).not.toBeNull();
  });

  test('does not go while a line records into it', async () => {
    addLine(host.server, {
      name: 'Studio 1',
      jobId: host.jobId,
      input: { kind: 'simulated', faults: [] },
      specId: 'ebu-r128',
      plannedSeconds: null,
      alarms: {},
    });
    expect(await code(() => deleteJob(host.server, host.jobId))).toBe('job-in-use');
    expect(viewJob(host.server, host.jobId).id).toBe(host.jobId);
  });

  test('leaves nothing running: what waited for it is cancelled', async () => {
    const { programmeId } = await host.measured(wav(-23));
    host.server.runner.stop();
    const row = addRow(host.server, {
      programmeId,
      specId: 'ebu-r128',
      format: deliveryFormatSchema.parse({ kind: 'wav' }),
      levelMode: { kind: 'as-set' },
    });
    await writeRow(host.server, row.id);
    deleteJob(host.server, host.jobId);
    const live = host.server.db
      .select()
      .from(tasks)
      .all()
      .filter(({ state }) => state === 'queued');
    expect(live).toEqual([]);
  });
});
