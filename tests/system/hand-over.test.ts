/** A hand-over of six deliveries is killed again and again, at moments that nobody chose; in the end all six are there once. */
import { type ChildProcess, spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { setTimeout as delay } from 'node:timers/promises';
import { build } from 'esbuild';
import { seededRandom } from '@/cli/demo/random';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { addRow } from '@/server/deliveries/rows';
import { writeRow } from '@/server/deliveries/write-row';
import { viewJob } from '@/server/jobs/jobs';
import { Server } from '@/server/server';
import { musicLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { askAgain } from '../fixtures/set-aside';
import { wavOf } from '../fixtures/wav';

const KILLS = 20;
const BUNDLE = resolve('test-results/bare-server.mjs');

const ROWS = [
  { specId: 'ebu-r128', format: { kind: 'wav' }, maxReductionDb: 0 },
  { specId: 'streaming-music', format: { kind: 'flac' }, maxReductionDb: 6 },
  { specId: 'podcast-stereo', format: { kind: 'mp3', sampleRateHz: 44_100 }, maxReductionDb: 6 },
  { specId: 'podcast-mono', format: { kind: 'm4a', arrangement: 'mono' }, maxReductionDb: 6 },
  { specId: 'streaming-video', format: { kind: 'opus' }, maxReductionDb: 6 },
  {
    specId: 'cd-master',
    format: { kind: 'wav', bitDepth: 16, sampleRateHz: 44_100, arrangement: 'split' },
    maxReductionDb: 0,
  },
] as const;

let host: TestServer;
beforeAll(async () => {
  mkdirSync('test-results', { recursive: true });
  await build({
    entryPoints: ['tests/fixtures/bare-server.ts'],
    outfile: BUNDLE,
    bundle: true,
    platform: 'node',
    format: 'esm',
    logLevel: 'warning',
    packages: 'external',
    alias: { 'server-only': 'node:process' },
  });
  host = new TestServer();
});
afterAll(() => {
  rmSync(host.root, { recursive: true, force: true });
  rmSync(BUNDLE, { force: true });
});

const start = () => spawn(process.execPath, [BUNDLE, host.root], { stdio: ['ignore', 'ignore', 'pipe'] });

async function ended(child: ChildProcess): Promise<number | null> {
  let complaint = '';
  child.stderr?.on('data', (text) => {
    complaint += text;
  });
  const [code, signal] = (await once(child, 'exit')) as [number | null, string | null];
  if (code !== 0 && signal !== 'SIGKILL') throw new Error(complaint);
  return code;
}

test(`killed at ${KILLS} moments, six deliveries are there once, verified, and no file beside them`, async () => {
  const [left, right] = musicLike() as [Float32Array, Float32Array];
  const twice = (samples: Float32Array) =>
    Float32Array.from({ length: 2 * samples.length }, (_, i) => samples[i % samples.length] ?? Number.NaN);
  const { programmeId } = await host.measured(wavOf([twice(left), twice(right)]), 'overture.wav');
  for (const { specId, format, maxReductionDb } of ROWS) {
    const line = addRow(host.server, {
      programmeId,
      specId,
      format: deliveryFormatSchema.parse(format),
      levelMode: { kind: 'solved', maxReductionDb, marginDb: 0 },
    });
    await writeRow(host.server, line.id);
  }
  await host.server.close();

  const seed = Date.now() % 1_000_000;
  const random = seededRandom(seed);
  let finishedBefore = 0;
  for (let kill = 0; kill < KILLS; kill++) {
    const child = start();
    const exit = ended(child);
    await Promise.race([exit, delay(250 + 1750 * random())]);
    if (child.exitCode !== null) finishedBefore++;
    child.kill('SIGKILL');
    await exit;
  }
  console.info(`seed ${seed}; the last ${finishedBefore} of ${KILLS} came after all was done`);
  expect(await ended(start())).toBe(0);

  host.server = new Server(host.server.folder);
  // What three of them ended over was set aside: somebody asks for it again.
  console.info(`${askAgain(host.server)} set aside`);
  await host.server.runner.whenIdle();
  const [programme] = viewJob(host.server, host.jobId).programmes;
  const deliveries = programme?.deliveries ?? [];
  expect(deliveries).toHaveLength(ROWS.length);
  const named = deliveries.flatMap(({ files }) => files);
  for (const { written, task } of deliveries) {
    expect(task?.state).toBe('done');
    expect(written?.verdict.items.filter(({ inside }) => !inside)).toEqual([]);
  }
  const folder = join(host.root, 'deliveries', host.jobId);
  expect(readdirSync(folder).sort()).toEqual(named.map(({ fileName }) => fileName).sort());
  for (const { fileName, sha256 } of named) {
    expect(
      createHash('sha256')
        .update(readFileSync(join(folder, fileName)))
        .digest('hex'),
    ).toBe(sha256);
  }
  expect(host.files().filter((file) => file.endsWith('.part'))).toEqual([]);
  await host.server.close();
});
