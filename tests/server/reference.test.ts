/** Files of the server's own disk, taken in where they lie: guarded, and held to what they were. */
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { viewJob } from '@/server/jobs/jobs';
import { listMedia, mediaPath, mediaRoots } from '@/server/take-in/media';
import { settleReferences } from '@/server/take-in/reference';
import { takeInByReference } from '@/server/take-in/take-in';
import { createDelivery } from '../fixtures/delivering';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const wav = (levelDbfs: number) => wavOf([tone([{ seconds: 2, levelDbfs }], 48_000)]);

let media: string;
let host: TestServer;
beforeEach(() => {
  host = new TestServer();
  media = mkdtempSync(join(tmpdir(), 'opsimeter-media-'));
  mkdirSync(join(media, 'shelf', 'inner'), { recursive: true });
  mkdirSync(join(media, 'secret'));
  writeFileSync(join(media, 'shelf', 'mix 10.wav'), wav(-20));
  writeFileSync(join(media, 'shelf', 'mix 9.wav'), wav(-26));
  writeFileSync(join(media, 'shelf', '.hidden'), 'x');
  writeFileSync(join(media, 'secret', 'key.wav'), wav(-30));
  symlinkSync(join(media, 'secret'), join(media, 'shelf', 'way out'));
  symlinkSync(join(media, 'secret', 'key.wav'), join(media, 'shelf', 'key.wav'));
  symlinkSync('mix 9.wav', join(media, 'shelf', 'inner link.wav'));
  process.env.OPSIMETER_MEDIA = join(media, 'shelf');
});
afterEach(async () => {
  delete process.env.OPSIMETER_MEDIA;
  await host.remove();
  rmSync(media, { recursive: true });
});

const mix = () => join(media, 'shelf', 'mix 10.wav');
const take = () => takeInByReference(host.server, { jobId: host.jobId, fileName: 'mix 10.wav' }, mix());
const row = () => viewJob(host.server, host.jobId).programmes[0];

test('folders are listed by name, without what is hidden or leads out', async () => {
  expect(mediaRoots().map(({ name }) => name)).toEqual(['shelf']);
  const { path, folders, files } = await listMedia(0, '');
  expect([path, folders]).toEqual(['', ['inner']]);
  expect(files.map(({ name }) => name)).toEqual(['inner link.wav', 'mix 9.wav', 'mix 10.wav']);
  expect(await listMedia(0, 'inner')).toEqual({ path: 'inner', folders: [], files: [] });
});

test.each(['..', '../secret', 'way out', 'way out/key.wav', 'key.wav', 'inner/../../secret', '/etc', 'a\0b'])(
  'no way leads out: %j',
  async (path) => {
    await expect(listMedia(0, path)).rejects.toMatchObject({ name: 'AppError' });
    await expect(mediaPath(0, path)).rejects.toMatchObject({
      code: expect.stringMatching(/^(outside-media|file-missing)$/),
    });
  },
);

test('a root that nobody named is none', async () => {
  await expect(listMedia(1, '')).rejects.toMatchObject({ code: 'outside-media' });
  delete process.env.OPSIMETER_MEDIA;
  expect(mediaRoots()).toEqual([]);
  await expect(listMedia(0, '')).rejects.toMatchObject({ code: 'outside-media' });
});

test('a file is measured and written from where it lies; nothing is copied', async () => {
  const { programmeId } = await take();
  await host.server.runner.whenIdle();
  expect(row()).toMatchObject({ measured: expect.anything(), reference: { path: mix(), state: 'whole' } });
  expect(host.files().filter((name) => name.startsWith('sources'))).toEqual([]);
  await createDelivery(host.server, programmeId, 'ebu-r128');
  await host.server.runner.whenIdle();
  expect(row()?.deliveries[0]?.written).not.toBeNull();
});

test('one whose time alone has changed is hashed, and stays what it was', async () => {
  await take();
  utimesSync(mix(), new Date(), new Date(Date.now() + 60_000));
  expect(row()?.reference?.state).toBe('touched');
  await settleReferences(host.server, host.jobId);
  expect(row()?.reference?.state).toBe('whole');
});

test.each([
  ['of another length', () => writeFileSync(mix(), Buffer.concat([wav(-20), Buffer.alloc(6)])), 'changed'],
  ['of the same length', () => writeFileSync(mix(), wav(-21)), 'touched'],
  ['gone', () => rmSync(mix()), 'missing'],
])('one that is %s is said, and nothing is written from it', async (_what, change, state) => {
  const { programmeId } = await take();
  await host.server.runner.whenIdle();
  change();
  expect(row()?.reference?.state).toBe(state);
  await settleReferences(host.server, host.jobId);
  expect(row()?.reference?.state).toBe(state);
  await createDelivery(host.server, programmeId, 'ebu-r128');
  await host.server.runner.whenIdle();
  expect(row()?.deliveries[0]).toMatchObject({
    written: null,
    task: { state: 'failed', error: { code: state === 'missing' ? 'file-missing' : 'reference-changed' } },
  });
});

test('bytes that are uploaded as well are kept here from then on', async () => {
  await take();
  expect(await host.takeIn(wav(-20), 'copy.wav')).toMatchObject({ alreadyThere: true });
  rmSync(mix());
  expect(row()?.reference).toBeNull();
  expect(host.files().filter((name) => name.startsWith('sources'))).toHaveLength(1);
});
