/** Backups: whole while the app works, killed at any moment, and held against their hashes before anything is restored. */
import { type ChildProcess, spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import {
  appendFileSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { seededRandom } from '@/cli/demo/random';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { backUp } from '@/server/backup/backup';
import { restore } from '@/server/backup/restore';
import { certificateOf } from '@/server/certificates/certificate';
import { addRow } from '@/server/deliveries/rows';
import { writeRow } from '@/server/deliveries/write-row';
import { createJob, viewJob } from '@/server/jobs/jobs';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { code } from '../fixtures/error-code';
import { TestServer } from '../fixtures/server';
import { stereo, tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

let host: TestServer;
let scratch: string;
let into: string;
let deliveryId: string;
beforeEach(async () => {
  scratch = mkdtempSync(join(tmpdir(), 'opsimeter-backup-'));
  into = join(scratch, 'backups');
  host = new TestServer();
  const { programmeId } = await host.measured(wavOf(stereo(tone([{ seconds: 4, levelDbfs: -23 }], 48_000))));
  const row = addRow(host.server, {
    programmeId,
    specId: 'ebu-r128',
    format: deliveryFormatSchema.parse({ kind: 'wav' }),
    levelMode: { kind: 'as-set' },
  });
  deliveryId = await writeRow(host.server, row.id);
  await host.server.runner.whenIdle();
});
afterEach(async () => {
  await host.remove();
  rmSync(scratch, { recursive: true, force: true });
});

let madeMs = Date.UTC(2026, 11, 1);
const backUpNow = () => {
  madeMs += 1000;
  return backUp(host.root, into, new Date(madeMs));
};
const hashOf = (path: string) => createHash('sha256').update(readFileSync(path)).digest('hex');
const whole = () => readdirSync(into).filter((name) => name.startsWith('20') && !name.endsWith('.part'));

/** What can't be made again, by name and hash. */
const contents = (root: string) =>
  Object.fromEntries(
    readdirSync(root, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile() && !/\.db(-|$)|manifest\.json/.test(entry.name))
      .map((entry) => join(entry.parentPath, entry.name))
      .map((path) => [path.slice(root.length + 1), hashOf(path)])
      .sort(),
  );

test('a folder that is restored has every job, file and certificate, and an app works on it', async () => {
  const report = await backUpNow();
  expect(report.damaged).toEqual([]);
  const [job, certificate] = [viewJob(host.server, host.jobId), certificateOf(host.server, deliveryId)];
  const data = join(scratch, 'restored');
  const restored = await restore(into, data);
  expect(restored).toMatchObject({ from: report.path, files: report.files, bytes: report.bytes });
  expect(contents(data)).toEqual(contents(host.root));
  const server = new Server(new DataFolder(data));
  try {
    await server.runner.whenIdle();
    expect(viewJob(server, host.jobId)).toEqual(job);
    expect({ ...certificateOf(server, deliveryId), issuedAt: '' }).toEqual({ ...certificate, issuedAt: '' });
    expect(server.db.$client.pragma('integrity_check')).toEqual([{ integrity_check: 'ok' }]);
  } finally {
    await server.close();
  }
  expect(await code(() => restore(into, data))).toBe('file-exists');
  expect(await code(() => restore(join(scratch, 'none'), join(scratch, 'other')))).toBe('file-missing');
});

test('what has not changed is linked: it takes no more space, and no more time', async () => {
  const first = await backUpNow();
  const second = await backUpNow();
  // The database alone.
  expect(second).toMatchObject({ files: first.files, copiedFiles: 1 });
  const [name = ''] = Object.keys(contents(second.path)).filter((own) => own.startsWith('sources/'));
  expect(statSync(join(first.path, name)).ino).toBe(statSync(join(second.path, name)).ino);
  await host.measured(wavOf(stereo(tone([{ seconds: 1, levelDbfs: -10 }], 48_000))), 'more.wav');
  // Its source and its curves.
  expect(await backUpNow()).toMatchObject({ files: first.files + 2, copiedFiles: 3 });
  // One that was replaced under the same name is copied anew.
  const [written = ''] = readdirSync(join(host.root, 'deliveries', host.jobId));
  const path = join(host.root, 'deliveries', host.jobId, written);
  appendFileSync(path, 'x');
  const fourth = await backUpNow();
  expect(hashOf(join(fourth.path, 'deliveries', host.jobId, written))).toBe(hashOf(path));
  rmSync(first.path, { recursive: true });
  const restored = await restore(into, join(scratch, 'restored'));
  expect(restored.from).toBe(fourth.path);
});

test('while the app writes, each backup is of one moment: no job without its file, no half of either', async () => {
  let isWorking = true;
  const working = (async () => {
    for (let k = 0; isWorking; k++) {
      await setTimeout(20);
      createJob(host.server, `Job ${k}`);
      await host.takeIn(
        wavOf(stereo(tone([{ seconds: 1, levelDbfs: -20 - k / 10 }], 8000)), { sampleRateHz: 8000 }),
        `${k}.wav`,
      );
    }
  })();
  const made: string[] = [];
  for (let k = 0; k < 3; k++) made.push((await backUpNow()).path);
  isWorking = false;
  await working;
  await host.server.runner.whenIdle();
  for (const [k, path] of made.entries()) {
    const data = join(scratch, `restored${k}`);
    await restore(path, data);
    const server = new Server(new DataFolder(data));
    await server.runner.whenIdle();
    const { programmes } = viewJob(server, host.jobId);
    expect(programmes.length).toBeGreaterThan(0);
    for (const { measured } of programmes) expect(measured).not.toBeNull();
    await server.close();
  }
});

test('a source that a disk has damaged is named, and saved as it is', async () => {
  const [sha256 = ''] = readdirSync(join(host.root, 'sources'));
  const path = join(host.root, 'sources', sha256);
  const bytes = readFileSync(path);
  bytes[1000] = (bytes[1000] as number) ^ 1;
  writeFileSync(path, bytes);
  expect((await backUpNow()).damaged).toEqual([`sources/${sha256}`]);
});

test.each([
  ['a file with other bytes', (path: string) => appendFileSync(path, 'x')],
  [
    'a file of the same length and time',
    (path: string) => {
      const { atimeMs, mtimeMs } = statSync(path);
      const bytes = readFileSync(path);
      bytes[bytes.length - 1] = (bytes[bytes.length - 1] as number) ^ 1;
      writeFileSync(path, bytes);
      utimesSync(path, atimeMs / 1000, mtimeMs / 1000);
    },
  ],
  ['a file that is gone', (path: string) => rmSync(path)],
])('a backup with %s is refused, and nothing is restored', async (_, damage) => {
  const { path } = await backUpNow();
  for (const name of ['opsimeter.db', ...Object.keys(contents(path)).slice(0, 2)]) {
    const kept = readFileSync(join(path, name));
    damage(join(path, name));
    const data = join(scratch, 'restored');
    expect(`${name}: ${await code(() => restore(into, data))}`).toBe(`${name}: backup-damaged`);
    expect(readdirSync(scratch).filter((own) => own.includes('restor'))).toEqual([]);
    writeFileSync(join(path, name), kept);
  }
  writeFileSync(join(path, 'manifest.json'), '{"manifest":"opsimeter-backup","files":[{"name":"../../x"}]}');
  expect(await code(() => restore(into, join(scratch, 'restored')))).toBe('backup-damaged');
});

test('two into one folder at once: the second says so', async () => {
  const both = await Promise.all([backUpNow(), code(() => backUp(host.root, into, new Date(0)))]);
  expect(both[1]).toBe('backup-under-way');
  expect(whole()).toHaveLength(1);
});

describe('killed', () => {
  const KILLS = 12;
  const start = (...args: string[]): ChildProcess =>
    spawn(process.execPath, ['bin/opsimeter.mjs', ...args], {
      stdio: 'ignore',
      env: { ...process.env, NODE_OPTIONS: '' },
    });
  const killedAt = async (ms: number, ...args: string[]) => {
    const child = start(...args);
    const ended = once(child, 'exit');
    await Promise.race([ended, setTimeout(ms)]);
    child.kill('SIGKILL');
    await ended;
  };

  test(`at ${KILLS} moments, a backup is whole or not there, and so is what is restored`, async () => {
    const random = seededRandom(7);
    for (let k = 0; k < 4; k++) {
      await host.measured(wavOf(stereo(tone([{ seconds: 30, levelDbfs: -20 - k }], 48_000))), `${k}.wav`);
    }
    const startedMs = performance.now();
    expect((await once(start('backup', into, '--data', host.root), 'exit'))[0]).toBe(0);
    const tookMs = performance.now() - startedMs;
    rmSync(into, { recursive: true });
    for (let kill = 0; kill < KILLS; kill++) {
      await killedAt(tookMs * (0.3 + 0.9 * random()), 'backup', into, '--data', host.root);
      if (!existsSync(into)) continue;
      for (const name of whole()) expect(existsSync(join(into, name, 'manifest.json'))).toBe(true);
    }
    expect((await once(start('backup', into, '--data', host.root), 'exit'))[0]).toBe(0);
    expect(readdirSync(into).filter((name) => name.endsWith('.part'))).toEqual([]);
    const data = join(scratch, 'restored');
    for (let kill = 0; kill < KILLS && !existsSync(data); kill++) {
      await killedAt(tookMs * (0.3 + 0.7 * random()), 'restore', into, '--data', data);
    }
    if (!existsSync(data)) expect((await once(start('restore', into, '--data', data), 'exit'))[0]).toBe(0);
    expect(contents(data)).toEqual(contents(host.root));
  });
});
