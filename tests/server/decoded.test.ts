/** Sources that are not PCM: decoded once for a track, measured and written from that, told as what they are. */
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import { viewJob } from '@/server/jobs/jobs';
import { chooseTrack } from '@/server/measure/measure-source';
import { DataFolder } from '@/server/storage/data-folder';
import { createDelivery } from '../fixtures/delivering';
import { ffmpeg } from '../fixtures/ffmpeg';
import { TestServer } from '../fixtures/server';

const scratch = mkdtempSync(join(tmpdir(), 'opsimeter-decoded-'));
const made = (name: string, ...args: string[]) => {
  ffmpeg(...args, join(scratch, name));
  return readFileSync(join(scratch, name));
};
const sine = (levelDb: number, hz = 440) => [
  ...['-f', 'lavfi', '-i', `sine=frequency=${hz}:sample_rate=48000:duration=5,volume=${levelDb}dB`],
];
let flac: Buffer;
let film: Buffer;
beforeAll(() => {
  flac = made('a.flac', ...sine(0), '-ac', '2', '-c:a', 'flac', '-sample_fmt', 's16');
  const picture = ['-f', 'lavfi', '-i', 'color=c=black:s=64x64:r=25:d=5'];
  film = made(
    'film.mkv',
    ...picture,
    ...[...sine(0), ...sine(-20)],
    ...['-map', '0:v', '-map', '1:a', '-map', '2:a', '-c:v', 'mpeg4', '-c:a', 'flac'],
  );
});
afterAll(() => rmSync(scratch, { recursive: true }));

let host: TestServer;
beforeEach(() => {
  host = new TestServer();
});
afterEach(() => host.remove());
const programme = () => viewJob(host.server, host.jobId).programmes[0];

test('what was decoded is kept beside the source, and made again where it is gone', async () => {
  const { sha256, programmeId } = await host.measured(flac, 'a.flac');
  expect(sha256).toBe(createHash('sha256').update(flac).digest('hex'));
  expect(host.files()).toEqual([
    `analysis/${sha256}.${ENGINE_VERSION}.bin`,
    `decoded/${sha256}.1.wav`,
    `sources/${sha256}`,
  ]);
  expect(programme()).toMatchObject({
    title: 'a',
    sizeBytes: flac.length,
    format: { container: 'FLAC', codec: 'FLAC', bitDepth: 16, frames: 240_000, layout: 'stereo', decodeErrors: 0 },
    measured: { findings: [expect.objectContaining({ code: 'same-channels' }), expect.anything()] },
  });
  expect(host.server.sourceReport(sha256)).toMatchObject({ sizeBytes: flac.length, sha256, format: { codec: 'FLAC' } });

  rmSync(join(host.root, 'decoded', `${sha256}.1.wav`));
  await createDelivery(host.server, programmeId, 'ebu-r128');
  await host.server.runner.whenIdle();
  expect(existsSync(join(host.root, 'decoded', `${sha256}.1.wav`))).toBe(true);
  expect(programme()?.deliveries[0]).toMatchObject({
    task: { state: 'done' },
    written: { format: { container: 'WAV' } },
  });
});

test('another sound track is measured in the place of the first', async () => {
  const { sha256 } = await host.measured(film, 'film.mkv');
  const first = programme()?.measured?.readings.integratedLufs ?? Number.NaN;
  expect(programme()?.format.track).toEqual({ number: 1, of: 2 });
  await chooseTrack(host.server, sha256, 2);
  await host.server.runner.whenIdle();
  expect(programme()?.format.track).toEqual({ number: 2, of: 2 });
  expect((programme()?.measured?.readings.integratedLufs ?? Number.NaN) - first).toBeCloseTo(-20, 1);
  await expect(chooseTrack(host.server, sha256, 3)).rejects.toMatchObject({ code: 'bad-request' });
});

test('a track that is chosen while another is measured is the one that counts', async () => {
  const { sha256 } = await host.takeIn(film, 'film.mkv');
  await chooseTrack(host.server, sha256, 2);
  await host.server.runner.whenIdle();
  expect(programme()?.format.track).toEqual({ number: 2, of: 2 });
  expect(programme()?.measured?.readings.integratedLufs).toBeLessThan(-35);
});

test('sources that were stored with an extension keep their place', () => {
  const root = mkdtempSync(join(tmpdir(), 'opsimeter-old-'));
  mkdirSync(join(root, 'sources'), { recursive: true });
  writeFileSync(join(root, 'sources', 'abc.wav'), 'sound');
  const folder = new DataFolder(root);
  folder.sweep();
  expect(readFileSync(folder.source('abc'), 'utf8')).toBe('sound');
  rmSync(root, { recursive: true });
});
