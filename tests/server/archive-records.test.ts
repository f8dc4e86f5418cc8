/** What was written, in a job's ZIP: records, stems and coded files go out and in again, and nothing that is said of them is believed. */
import { execFileSync } from 'node:child_process';
import { createWriteStream, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import yazl from 'yazl';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { type AssemblyView, listAssemblies, orderAssembly } from '@/server/assemblies/assemblies';
import { discardAssembly, downloadAssembled } from '@/server/assemblies/download';
import { addRow } from '@/server/deliveries/rows';
import { writeRow } from '@/server/deliveries/write-row';
import type { Manifest } from '@/server/jobs/archive-manifest';
import { exportJob } from '@/server/jobs/export-job';
import { receiveJob } from '@/server/jobs/import-job';
import { listJobs } from '@/server/jobs/job-list';
import { viewJob } from '@/server/jobs/jobs';
import { createLineUp, listLineUps } from '@/server/line-ups/line-ups';
import { ffmpegLoudness } from '../fixtures/command';
import { ffmpeg } from '../fixtures/ffmpeg';
import { musicLike, speechLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { gathered, unzipped } from '../fixtures/unzipped';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const scratch = mkdtempSync(join(tmpdir(), 'opsimeter-records-'));
let host: TestServer;
let other: TestServer;
let whole: Map<string, Buffer>;
let before: Map<string, AssemblyView[]>;

/** What was written of each line-up, by its name. */
const writtenOf = ({ server }: TestServer, jobId: string) =>
  new Map(listLineUps(server, jobId).map(({ id, name }) => [name, listAssemblies(server, id)]));

beforeAll(async () => {
  host = new TestServer();
  other = new TestServer();
  const pads = musicLike().map((samples) => samples.slice(0, 6 * RATE).map((x) => 0.3 * x));
  const [voice = new Float32Array()] = speechLike().map((samples) => samples.slice(0, 6 * RATE).map((x) => 0.4 * x));
  const mix = pads.map((samples) => samples.map((x, n) => x + (voice[n] as number)));
  const idOf = async (samples: Float32Array[], name: string) =>
    (await host.measured(wavOf(samples), `${name}.wav`)).programmeId;
  const pieces = [await idOf(pads, 'pads'), await idOf([voice, voice], 'vox'), await idOf(mix, 'mix')];
  const make = (kind: 'record' | 'stems', name: string) =>
    createLineUp(host.server, host.jobId, {
      kind,
      name,
      specId: 'streaming-music',
      members: pieces.map((programmeId) => ({ programmeId, gapSeconds: kind === 'record' ? 0.5 : 0 })),
    });
  const record = make('record', 'Dusk');
  const orders = [
    [record, { form: 'continuous', format: { kind: 'wav' } }],
    [record, { form: 'single', format: { kind: 'mp3', bitRateKbps: 192 } }],
    [make('stems', 'Song'), { form: 'stems', format: { kind: 'flac' } }],
  ] as const;
  for (const [lineUpId, wish] of orders) {
    orderAssembly(host.server, lineUpId, wish);
    await host.server.runner.whenIdle();
  }
  before = writtenOf(host, host.jobId);
  const { body } = await exportJob(host.server, host.jobId);
  whole = await unzipped(await gathered(body));
});
afterAll(async () => {
  await host.remove();
  await other.remove();
  rmSync(scratch, { recursive: true });
});

async function bringIn(entries: Iterable<[string, Buffer]>, server = other.server): Promise<string> {
  const file = new yazl.ZipFile();
  for (const [name, bytes] of entries) file.addBuffer(bytes, name);
  file.end();
  const path = join(scratch, 'made.zip');
  await pipeline(file.outputStream, createWriteStream(path));
  const bytes = await readFile(path);
  return receiveJob(
    server,
    'job.zip',
    (async function* once() {
      yield bytes;
    })(),
  );
}
/** The job's ZIP, with something else said of what was written. */
function saying(change: (record: Manifest['lineUps'][number]['records'][number]) => object): [string, Buffer][] {
  const own = JSON.parse(String(whole.get('manifest.json'))) as Manifest;
  const lineUps = own.lineUps.map((lineUp) => ({
    ...lineUp,
    records: lineUp.records.map((record) => ({ ...record, ...change(record) })),
  }));
  const manifest = Buffer.from(JSON.stringify({ ...own, lineUps }));
  return [...whole].map(([name, bytes]) => [name, name === 'manifest.json' ? manifest : bytes]);
}
/** Without what belongs to where it is. */
const told = ({ id: _id, lineUpId: _of, task: _task, ...view }: AssemblyView) => view;

test('they are there again with their files, and can be downloaded and discarded', async () => {
  const jobId = await bringIn(whole);
  const after = writtenOf(other, jobId);
  expect([...after.keys()].sort()).toEqual(['Dusk', 'Song']);
  const [single, continuous] = after.get('Dusk') ?? [];
  const [singleBefore, continuousBefore] = before.get('Dusk') ?? [];
  expect(continuous && told(continuous)).toEqual(continuousBefore && told(continuousBefore));
  expect(single && told(single)).toEqual(singleBefore && told(singleBefore));
  // A master was measured before it was compressed, and is read from its FLAC now.
  const [[stems], [stemsBefore]] = [after.get('Song') ?? [], before.get('Song') ?? []];
  expect(stems?.outcome?.report.readings).toEqual(stemsBefore?.outcome?.report.readings);
  expect({ ...stems?.outcome, report: null }).toEqual({ ...stemsBefore?.outcome, report: null });
  const read = (view: AssemblyView | undefined) => view?.outcome?.report.readings.integratedLufs ?? Number.NaN;
  for (const { folderName, outcome } of [...after.values()].flat()) {
    for (const { fileName } of outcome?.files ?? []) {
      const [there, here] = [
        join(other.server.folder.record(jobId, folderName), fileName),
        join(host.server.folder.record(host.jobId, folderName), fileName),
      ];
      expect(readFileSync(there).equals(readFileSync(here))).toBe(true);
    }
  }
  expect(other.files().filter((name) => name.includes('.part'))).toEqual([]);
  const wav = join(other.server.folder.record(jobId, 'Dusk'), 'Dusk.wav');
  expect(Math.abs(ffmpegLoudness(wav).integratedLufs - read(continuous))).toBeLessThan(0.06);
  // Of single files that are coded it is what they come to one after the other, as FFmpeg decodes them and SoX joins them.
  const coded = (single?.outcome?.files ?? []).filter(({ role }) => role === 'audio');
  const decoded = coded.map(({ fileName }, i) => {
    const path = join(scratch, `${i}.wav`);
    ffmpeg('-i', join(other.server.folder.record(jobId, 'Dusk 2'), fileName), '-c:a', 'pcm_s24le', path);
    return path;
  });
  execFileSync('sox', [...decoded, join(scratch, 'joined.wav')]);
  expect(Math.abs(ffmpegLoudness(join(scratch, 'joined.wav')).integratedLufs - read(single))).toBeLessThan(0.06);
  const { fileName } = await downloadAssembled(other.server, continuous?.id ?? '', 0);
  expect(fileName).toBe('Dusk.wav');
  await discardAssembly(other.server, continuous?.id ?? '');
  expect(writtenOf(other, jobId).get('Dusk')).toHaveLength(1);
});

test('what is said of their levels is read again', async () => {
  const jobId = await bringIn(
    saying(({ outcome }) => {
      const readings = { ...outcome.report.readings, integratedLufs: -14, truePeakDbtp: -3 };
      const verdict = { ...outcome.verdict, inside: true, items: [] };
      return { outcome: { ...outcome, report: { ...outcome.report, readings }, verdict } };
    }),
  );
  for (const [name, views] of writtenOf(other, jobId)) {
    for (const [i, { outcome }] of views.entries()) {
      const own = before.get(name)?.[i]?.outcome;
      const { integratedLufs } = outcome?.report.readings ?? {};
      expect(Math.abs((integratedLufs ?? 0) - (own?.report.readings.integratedLufs ?? 0))).toBeLessThan(0.1);
      expect(outcome?.verdict.inside).toBe(own?.verdict.inside);
    }
  }
});

test.each<[string, () => Iterable<[string, Buffer]>]>([
  [
    'a file with one bit turned',
    () =>
      [...whole].map(([name, bytes]) => {
        if (!name.endsWith('Dusk.wav')) return [name, bytes];
        const turned = Buffer.from(bytes);
        turned[9000] = (turned[9000] ?? Number.NaN) ^ 1;
        return [name, turned];
      }),
  ],
  ['a file that is missing', () => [...whole].filter(([name]) => !name.endsWith('Dusk.cue'))],
  ['a folder whose name is a path', () => saying(() => ({ folderName: '../elsewhere' }))],
  ['two of one name', () => saying(() => ({ folderName: 'Dusk' }))],
  [
    'a programme that is not there',
    () =>
      saying(({ order }) => ({
        order: { ...order, members: order.members.map((member) => ({ ...member, programme: 99 })) },
      })),
  ],
])('%s is refused, and leaves nothing behind', async (_what, make) => {
  const fresh = new TestServer();
  try {
    await expect(bringIn(make(), fresh.server)).rejects.toMatchObject({ code: 'not-a-job' });
    expect(listJobs(fresh.server)).toHaveLength(1);
    expect(fresh.files().filter((name) => /^(records|deliveries|incoming)/.test(name))).toEqual([]);
  } finally {
    await fresh.remove();
  }
});

test('coded files are told by their own size and length, and the job that came in goes out again', async () => {
  const first = new TestServer();
  const second = new TestServer();
  try {
    const { programmeId } = await first.measured(wavOf([tone([{ seconds: 2, levelDbfs: -20 }], 48_000)]), 'talk.wav');
    for (const kind of ['mp3', 'm4a'] as const) {
      const format = deliveryFormatSchema.parse({ kind });
      const levelMode = { kind: 'as-set' } as const;
      const { id } = addRow(first.server, { programmeId, specId: 'ebu-r128', format, levelMode });
      await writeRow(first.server, id);
    }
    await first.server.runner.whenIdle();
    const out = await exportJob(first.server, first.jobId);
    const once = await receiveJob(second.server, 'job.zip', out.body);
    const again = await exportJob(second.server, once);
    const twice = await receiveJob(second.server, 'job.zip', again.body);
    const written = (host: TestServer, jobId: string) =>
      viewJob(host.server, jobId).programmes.flatMap(({ deliveries }) =>
        deliveries.map((delivery) => delivery.written),
      );
    expect(written(first, first.jobId)).toHaveLength(2);
    expect(written(second, once)).toEqual(written(first, first.jobId));
    expect(written(second, twice)).toEqual(written(first, first.jobId));
  } finally {
    await first.remove();
    await second.remove();
  }
});
