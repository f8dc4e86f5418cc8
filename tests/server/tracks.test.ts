/** Tracks of films put together by the app: what is taken in is what FFmpeg decodes of each, once, whatever happens meanwhile. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { certificateSchema } from '@/core/delivery/certificate';
import { timeCodeAt } from '@/core/units/time-code';
import { certificateOf } from '@/server/certificates/certificate';
import { viewJob } from '@/server/jobs/jobs';
import { listTakenIn, takeInListing } from '@/server/jobs/take-in-list';
import { metadataOf } from '@/server/measure/measure-source';
import { performTracks, takeInTracks } from '@/server/take-in/tracks';
import { quietly } from '@/server/tasks/runner';
import { changeTreatment } from '@/server/treatments/treatments';
import { createDelivery } from '../fixtures/delivering';
import { decodedByFfmpeg, ffmpeg, firstDifference } from '../fixtures/ffmpeg';
import { TestServer } from '../fixtures/server';

const RATE = 48_000;
const scratch = mkdtempSync(join(tmpdir(), 'opsimeter-tracks-'));
const at = (name: string) => join(scratch, name);
let film: Buffer;
beforeAll(() => {
  const tones = [300, 400, 500, 600].map((hz, i) => [
    ...['-f', 'lavfi', '-i', `sine=f=${hz}:r=${RATE}:d=3,volume=-${6 * i}dB`],
  ]);
  const mapped = [0, 1, 2, 3, 4].flatMap((i) => ['-map', `${i}`]);
  const moving = ['-f', 'lavfi', '-i', 'testsrc2=s=64x64:r=25:d=3'];
  const written = ['-c:v', 'mpeg4', '-c:a', 'pcm_s24le', '-timecode', '10:00:00:00'];
  ffmpeg(...moving, ...tones.flat(), ...mapped, ...written, at('reel.mov'));
  film = readFileSync(at('reel.mov'));
});
afterAll(() => rmSync(scratch, { recursive: true }));

let host: TestServer;
beforeEach(() => {
  host = new TestServer();
});
afterEach(() => host.remove());

const titles = () => viewJob(host.server, host.jobId).programmes.map(({ title }) => title);
const listed = () =>
  listTakenIn(host.server, host.jobId, { specId: 'ebu-r128', offset: 0, limit: 50, ...takeInListing.parse({}) }).rows;

test('each list becomes a programme of its own, asked once or twice at once', async () => {
  const { programmeId } = await host.measured(film, 'reel.mov');
  const lists = [[1, 2], [4, 3], [3]];
  await Promise.all([takeInTracks(host.server, programmeId, lists), takeInTracks(host.server, programmeId, lists)]);
  expect(listed()[0]?.tracks.map(({ tracks }) => tracks)).toEqual(['1+2', '4+3', '3']);
  await host.server.runner.whenIdle();
  expect(titles().toSorted()).toEqual(['reel', 'reel, track 3', 'reel, tracks 1+2', 'reel, tracks 4+3']);
  expect(listed().flatMap(({ tracks }) => tracks)).toEqual([]);
  const track = (number: number) => {
    ffmpeg('-i', at('reel.mov'), '-map', `0:a:${number - 1}`, '-c:a', 'pcm_s24le', at('one.wav'));
    return decodedByFfmpeg(at('one.wav'), 1)[0] ?? new Float32Array();
  };
  for (const { title, sha256, format, fileName, measured } of listed().filter((row) => row.title !== 'reel')) {
    const numbers = (/tracks? (.*)$/.exec(title)?.[1] ?? '').split('+').map(Number);
    expect(format).toMatchObject({ container: 'WAV', channels: numbers.length, bitDepth: 24, frames: 3 * RATE });
    expect(fileName).toBe(`reel_tracks-${numbers.join('+')}.wav`);
    expect(measured).not.toBeNull();
    const samples = decodedByFfmpeg(host.server.folder.source(sha256), numbers.length);
    expect(firstDifference(samples, numbers.map(track))).toBeUndefined();
    // It begins where the film does: ten hours after midnight.
    const { timeReferenceFrames, timeCode } = await metadataOf(host.server, sha256);
    expect(timeReferenceFrames).toBe(10 * 3600 * RATE);
    expect(timeCode && timeCodeAt(timeCode, RATE, RATE)).toBe('10:00:01:00');
  }
});

test('what is delivered of a film says when it begins: in the file, and in its certificate', async () => {
  const { programmeId } = await host.measured(film, 'reel.mov');
  changeTreatment(host.server, programmeId, { trim: { startFrame: 1.52 * RATE, endFrame: null } });
  await createDelivery(host.server, programmeId, 'ebu-r128');
  await host.server.runner.whenIdle();
  const delivery = viewJob(host.server, host.jobId).programmes[0]?.deliveries[0];
  const certificate = certificateOf(host.server, delivery?.id ?? '');
  expect(certificateSchema.parse(certificate).startTimeCode).toEqual({ label: '10:00:01:13', rate: '25' });
  const again = await host.measured(
    readFileSync(join(host.root, 'deliveries', host.jobId, delivery?.fileName ?? '')),
    'again.wav',
  );
  const { timeCode } = await metadataOf(host.server, again.sha256);
  expect(timeCode && timeCodeAt(timeCode, 0, RATE)).toBe('10:00:01:13');
});

test('done again, as after a crash, nothing is there twice; and nothing is left half taken in', async () => {
  const { programmeId } = await host.measured(film, 'reel.mov');
  await takeInTracks(host.server, programmeId, [[1, 2]]);
  await host.server.runner.whenIdle();
  await performTracks(host.server, `${programmeId} 1+2`, quietly());
  expect(titles()).toEqual(['reel', 'reel, tracks 1+2']);
  const controller = new AbortController();
  controller.abort();
  await expect(
    performTracks(host.server, `${programmeId} 3+4`, { ...quietly(), signal: controller.signal }),
  ).rejects.toMatchObject({ code: 'cancelled' });
  expect(titles()).toHaveLength(2);
  expect(host.files().filter((name) => name.startsWith('incoming'))).toEqual([]);
});

test('what can not be put together is refused before anything begins', async () => {
  const { programmeId } = await host.measured(film, 'reel.mov');
  await expect(takeInTracks(host.server, programmeId, [[1, 2], [5]])).rejects.toMatchObject({
    code: 'no-such-track',
    details: { track: 5, of: 4 },
  });
  await expect(takeInTracks(host.server, 'nobody', [[1]])).rejects.toMatchObject({ code: 'not-found' });
  ffmpeg('-f', 'lavfi', '-i', `sine=r=${RATE}:d=1`, at('plain.wav'));
  const plain = await host.measured(readFileSync(at('plain.wav')), 'plain.wav');
  await expect(takeInTracks(host.server, plain.programmeId, [[1]])).rejects.toMatchObject({ code: 'bad-request' });
  await host.server.runner.whenIdle();
  expect(titles()).toEqual(['reel', 'plain']);
});
