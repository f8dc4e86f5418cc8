/** A job as one ZIP: out and in again to the same state, and nothing comes in that is not such a job. */
import { createWriteStream, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import yazl from 'yazl';
import { NO_TAGS } from '@/core/file-formats/tags';
import { coverOf, setCover } from '@/server/deliveries/cover';
import { setTags } from '@/server/deliveries/rows';
import type { Manifest } from '@/server/jobs/archive-manifest';
import { exportJob } from '@/server/jobs/export-job';
import { receiveJob } from '@/server/jobs/import-job';
import { listJobs } from '@/server/jobs/job-list';
import { archiveJob, chooseSpec, type JobView, viewJob } from '@/server/jobs/jobs';
import { addMarker } from '@/server/jobs/markers';
import { changeProgramme, groupProgrammes, removeProgramme } from '@/server/jobs/programmes';
import { chooseLayout } from '@/server/measure/measure-source';
import { nameVersion, saveTreatment } from '@/server/treatments/treatments';
import { COVER } from '../fixtures/cover';
import { createDelivery } from '../fixtures/delivering';
import { ffmpeg } from '../fixtures/ffmpeg';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { gathered, unzipped } from '../fixtures/unzipped';
import { wavOf } from '../fixtures/wav';

const scratch = mkdtempSync(join(tmpdir(), 'opsimeter-archive-'));
let host: TestServer;
let other: TestServer;
let zip: Buffer;
let whole: Map<string, Buffer>;

beforeAll(async () => {
  host = new TestServer();
  other = new TestServer();
  const samples = tone([{ seconds: 3, levelDbfs: -20 }], 48_000);
  const mix = await host.measured(wavOf([samples, samples.map((x) => x / 2)]), 'mix.wav');
  const quad = await host.measured(wavOf([samples, samples, samples, samples]), 'quad.wav');
  ffmpeg('-f', 'lavfi', '-i', 'sine=d=2:r=44100', '-c:a', 'flac', join(scratch, 'talk.flac'));
  const talk = await host.measured(readFileSync(join(scratch, 'talk.flac')), 'talk.flac');
  chooseLayout(host.server, quad.sha256, 'quad');
  chooseSpec(host.server, host.jobId, 'streaming-music');
  changeProgramme(host.server, mix.programmeId, { title: 'The mix', note: 'louder, please' });
  groupProgrammes(host.server, [mix.programmeId, quad.programmeId], 'Dome');
  removeProgramme(host.server, talk.programmeId, true);
  saveTreatment(host.server, mix.programmeId, { gainDb: -3.2 });
  setTags(host.server, mix.programmeId, { ...NO_TAGS, artist: 'Somebody' });
  await setCover(host.server, mix.programmeId, once(COVER));
  await setCover(host.server, quad.programmeId, once(COVER));
  await createDelivery(host.server, mix.programmeId, 'ebu-r128');
  await host.server.runner.whenIdle();
  saveTreatment(host.server, mix.programmeId, { gainDb: -4 });
  nameVersion(host.server, mix.programmeId, 2, 'Softer');
  addMarker(host.server, mix.programmeId, { startFrame: 4800, endFrame: 9600, name: 'Chorus' });
  // The first is set again, so that the newest is not what is set.
  saveTreatment(host.server, mix.programmeId, { gainDb: -3.2 });
  await host.server.runner.whenIdle();
  const { body, fileName } = await exportJob(host.server, host.jobId);
  expect(fileName).toBe('test-job.zip');
  zip = await gathered(body);
  whole = await unzipped(zip);
});
afterAll(async () => {
  await host.remove();
  await other.remove();
  rmSync(scratch, { recursive: true });
});

async function zipOf(entries: Iterable<[string, Buffer]>): Promise<Buffer> {
  const file = new yazl.ZipFile();
  for (const [name, bytes] of entries) file.addBuffer(bytes, name);
  file.end();
  const path = join(scratch, 'made.zip');
  await pipeline(file.outputStream, createWriteStream(path));
  return readFile(path);
}

async function* once(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}
const bringIn = (bytes: Uint8Array, server = other.server) => receiveJob(server, 'job.zip', once(bytes));
const manifest = () => JSON.parse((whole.get('manifest.json') as Buffer).toString()) as Manifest;
/** The job's ZIP with another manifest. */
const withManifest = (change: (own: Manifest) => unknown) => {
  const own = manifest();
  const changed = change(own) ?? own;
  return zipOf(
    [...whole, ['manifest.json', Buffer.from(JSON.stringify(changed))]].filter(lastOfItsName) as [string, Buffer][],
  );
};
function lastOfItsName(entry: unknown, index: number, all: unknown[]): boolean {
  const [name] = entry as [string, Buffer];
  return all.findLastIndex((other) => (other as [string, Buffer])[0] === name) === index;
}

/** A job's state without what belongs to where it is: ids, and times of tasks. */
function stateOf(job: JobView): unknown {
  return {
    name: job.name,
    specId: job.specId,
    removed: job.removed.map(({ title, fileName }) => ({ title, fileName })),
    // Edits are those of the desk where they were made: they stay behind.
    programmes: job.programmes.map(
      ({ id: _id, task: _task, undoable: _u, redoable: _r, editId: _edit, ...described }) => {
        const { deliveries, markers, ...programme } = described;
        return {
          ...programme,
          markers: markers.map(({ id: _markerId, ...marker }) => marker),
          deliveries: deliveries.map(({ id: _ownId, task: _ownTask, programmeId: _of, rowId, ...delivery }) => ({
            ...delivery,
            hasLine: rowId !== null,
          })),
        };
      },
    ),
  };
}

test('out and in again: sources, layouts, groups, notes, treatments and what was written are the same', async () => {
  const jobId = await bringIn(zip);
  await other.server.runner.whenIdle();
  const [before, after] = [viewJob(host.server, host.jobId), viewJob(other.server, jobId)];
  expect(before.programmes).toHaveLength(2);
  expect(before.programmes[0]?.deliveries[0]?.written).not.toBeNull();
  expect(stateOf(after)).toEqual(stateOf(before));
  const written = after.programmes[0]?.deliveries[0];
  expect(readFileSync(other.server.folder.delivery(jobId, written?.fileName ?? ''))).toEqual(
    readFileSync(host.server.folder.delivery(host.jobId, written?.fileName ?? '')),
  );
  expect(written?.said).toMatchObject({ tags: { artist: 'Somebody' }, coverSha256: expect.any(String) });
  expect((await coverOf(other.server, after.programmes[0]?.id ?? '')).bytes).toEqual(new Uint8Array(COVER));
});

test('in twice: two jobs, of the same stored sources', async () => {
  const before = other.files().filter((name) => name.startsWith('sources'));
  const jobId = await bringIn(zip);
  expect(stateOf(viewJob(other.server, jobId))).toEqual(stateOf(viewJob(host.server, host.jobId)));
  expect(other.files().filter((name) => name.startsWith('sources'))).toEqual(before);
});

const withProgrammes = (own: Manifest, change: (programme: Manifest['programmes'][number]) => unknown) => ({
  ...own,
  programmes: own.programmes.map(change),
});
const withDelivery = (change: object) =>
  withManifest((own) =>
    withProgrammes(own, (programme) => ({
      ...programme,
      deliveries: programme.deliveries.map((delivery) => ({ ...delivery, ...change })),
    })),
  );

describe('what is no such job is refused, and leaves nothing behind', () => {
  const firstSource = () => [...whole.keys()].find((name) => name.startsWith('sources/')) as string;
  const padded = (bytes: Buffer) => Buffer.concat([bytes, Buffer.alloc(1)]);
  /** A name put in place of another of the same length, in the ZIP's bytes: no tool writes such names. */
  const renamed = async (name: string) => {
    const stand = 'x'.repeat(name.length);
    const bytes = await zipOf([...whole, [stand, Buffer.from('x')]]);
    return Buffer.from(bytes.toString('latin1').replaceAll(stand, name), 'latin1');
  };
  const cases: [string, () => Promise<Buffer>][] = [
    ['text', async () => Buffer.from('not a ZIP at all, but long enough to look at')],
    ['nothing', async () => Buffer.alloc(0)],
    ['a ZIP cut short', async () => zip.subarray(0, zip.length - 400)],
    ['a ZIP without a manifest', () => zipOf([...whole].filter(([name]) => name !== 'manifest.json'))],
    ['a manifest of another kind', () => withManifest(() => ({ format: 'something', version: 1 }))],
    ['a version to come', () => withManifest((own) => ({ ...own, version: 2 }))],
    ['a source that is missing', () => zipOf([...whole].filter(([name]) => name !== firstSource()))],
    ['a source of another size', () => zipOf([...whole].map(([n, b]) => [n, n === firstSource() ? padded(b) : b]))],
    [
      'a source with one bit turned',
      () =>
        zipOf(
          [...whole].map(([name, bytes]) => {
            if (name !== firstSource()) return [name, bytes];
            const turned = Buffer.from(bytes);
            turned[100] = (turned[100] ?? Number.NaN) ^ 1;
            return [name, turned];
          }),
        ),
    ],
    ['a file that belongs to nothing', () => zipOf([...whole, ['readme.txt', Buffer.from('x')]])],
    ['a path out of the folder', () => renamed('../../outside.txt')],
    ['a path from the root', () => renamed('/tmp/outside.txt')],
    ['a path of another system', () => renamed('..\\outside.txt')],
    ['a delivery whose name is a path', () => withDelivery({ fileName: '../x.wav' })],
    ['a delivery without a treatment', () => withDelivery({ treatmentVersion: 9 })],
    [
      'a programme without a source',
      () => withManifest((own) => withProgrammes(own, (programme) => ({ ...programme, sourceSha256: '0'.repeat(64) }))),
    ],
    [
      'sizes that no disk holds',
      () => withManifest((own) => ({ ...own, sources: own.sources.map((one) => ({ ...one, sizeBytes: 2 ** 50 })) })),
    ],
    [
      'a gain beyond all bounds',
      () =>
        withManifest((own) =>
          withProgrammes(own, (programme) => ({
            ...programme,
            treatments: programme.treatments.map((version) => ({ ...version, treatment: { gainDb: 1e9 } })),
          })),
        ),
    ],
  ];
  const late = 1e300;
  cases.push(
    [
      'a job that was made at no time',
      () => withManifest((own) => ({ ...own, job: { ...own.job, createdAtMs: late } })),
    ],
    [
      'a job archived at no time',
      () => withManifest((own) => ({ ...own, job: { ...own.job, archivedAtMs: 8.65e15 } })),
    ],
    ['a delivery that was written at no time', () => withDelivery({ writtenAtMs: late })],
    ['a delivery that was made between two milliseconds', () => withDelivery({ createdAtMs: 0.5 })],
    [
      'a programme that was made at no time',
      () => withManifest((own) => withProgrammes(own, (programme) => ({ ...programme, createdAtMs: late }))),
    ],
  );
  test.each(cases)('%s', async (_what, make) => {
    const fresh = new TestServer();
    try {
      const bytes = await make();
      await expect(bringIn(bytes, fresh.server)).rejects.toMatchObject({ code: 'not-a-job' });
      expect(listJobs(fresh.server)).toHaveLength(1);
      expect(
        fresh
          .files()
          .filter((name) => !name.startsWith('sources') && !name.startsWith('analysis') && !name.startsWith('decoded')),
      ).toEqual([]);
    } finally {
      await fresh.remove();
    }
  });

  test('other bytes of a source that is known already', async () => {
    const name = firstSource();
    const turned = Buffer.from(whole.get(name) as Buffer);
    turned[100] = (turned[100] ?? Number.NaN) ^ 1;
    const bytes = await zipOf([...whole].map(([own, body]) => [own, own === name ? turned : body]));
    const jobs = listJobs(host.server).length;
    await expect(bringIn(bytes, host.server)).rejects.toMatchObject({ code: 'not-a-job' });
    expect(listJobs(host.server)).toHaveLength(jobs);
  });

  test('a bomb: an entry that grows beyond what it says is stopped', async () => {
    const name = firstSource();
    const size = (whole.get(name) as Buffer).length;
    const bomb = await zipOf([...whole].map(([n, bytes]) => [n, n === name ? Buffer.alloc(300_000_000) : bytes]));
    expect(bomb.length).toBeLessThan(5_000_000);
    // The directory at the end says that it is no larger than the source that it claims to be.
    const entry = bomb.lastIndexOf(name) - 46;
    expect(bomb.readUInt32LE(entry)).toBe(0x02014b50);
    bomb.writeUInt32LE(size, entry + 24);
    const fresh = new TestServer();
    const before = process.memoryUsage().rss;
    await expect(bringIn(bomb, fresh.server)).rejects.toMatchObject({ code: 'not-a-job' });
    expect(process.memoryUsage().rss - before).toBeLessThan(100_000_000);
    expect(fresh.files()).toEqual([]);
    await fresh.remove();
  });
});

test('jobs are listed with how far they are, and put away', async () => {
  const job = () => listJobs(host.server).find(({ id }) => id === host.jobId);
  const missing = viewJob(host.server, host.jobId).programmes[0]?.deliveries[0]?.written?.verdict.inside ? 0 : 1;
  expect(job()).toMatchObject({ programmes: 2, measured: 2, written: 1, missing, isArchived: false });
  archiveJob(host.server, host.jobId, true);
  expect(job()).toMatchObject({ isArchived: true });
  archiveJob(host.server, host.jobId, false);
  expect(() => archiveJob(host.server, 'none', true)).toThrow(/does not exist/);
});
