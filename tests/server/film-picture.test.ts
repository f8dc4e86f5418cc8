/**
 * The picture of films as it is shown beside the sound: FFmpeg decodes the segments, and each second of the film is a grey of its own, so that
 * what is shown tells when it is.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pictureSecondsAt, segmentAt } from '@/core/film/picture-segments';
import { viewJob } from '@/server/jobs/jobs';
import { pictureSegment, pictureTimes } from '@/server/measure/film-picture';
import { takeInTracks } from '@/server/take-in/tracks';
import { ffmpeg } from '../fixtures/ffmpeg';
import { TestServer } from '../fixtures/server';

const RATE = 48_000;
const SECONDS = 23;
const scratch = mkdtempSync(join(tmpdir(), 'opsimeter-picture-'));
const at = (name: string) => join(scratch, name);
/** Seconds 0, 1, 2 … are greys of 30, 38, 46 …: far enough apart to be told once they are coded. */
const greys = (fps: string) => [
  ...[
    '-f',
    'lavfi',
    '-i',
    `color=c=gray:s=16x8:r=${fps}:d=${SECONDS},format=yuv420p,geq=lum='30+8*floor(T)':cb=128:cr=128,scale=640:272,setsar=1`,
  ],
];
const sound = ['-f', 'lavfi', '-i', `sine=440:r=${RATE}:d=${SECONDS}`];

let host: TestServer;
beforeAll(() => {
  host = new TestServer();
});
afterAll(async () => {
  await host.remove();
  rmSync(scratch, { recursive: true });
});

/** The second of the film that each frame of a segment is of, and when it is shown within the segment. */
function shown(path: string): { second: number; atSeconds: number }[] {
  // One point of the middle of each frame is enough.
  const grey = ffmpeg('-i', path, '-vf', 'crop=2:2,extractplanes=y', '-f', 'rawvideo', '-');
  const args = ['-v', 'error', '-select_streams', 'v', '-show_entries', 'frame=pts_time', '-of', 'csv=p=0', path];
  const times = execFileSync('ffprobe', args).toString().trim().split('\n').map(Number.parseFloat);
  return times.map((atSeconds, i) => ({ second: Math.round(((grey[4 * i] ?? 0) - 30) / 8), atSeconds }));
}

test.each([
  ['plain.mov', '25', 0, ['-c:v', 'mpeg4', '-c:a', 'pcm_s24le']],
  ['late.mov', '25', 0.52, ['-c:v', 'libx264', '-c:a', 'aac']],
  ['film.mkv', '24000/1001', 0, ['-c:v', 'libx264', '-c:a', 'flac']],
  ['cast.mxf', '25', 0, ['-c:v', 'mpeg2video', '-c:a', 'pcm_s16le']],
])('%s is shown in segments, each second when it is heard', async (name, fps, lateSeconds, coded) => {
  ffmpeg(...greys(fps), '-itsoffset', String(lateSeconds), ...sound, ...coded, at(name));
  const { programmeId } = await host.measured(readFileSync(at(name)), name);
  const times = await pictureTimes(host.server, programmeId);
  // A coder may have put a packet ahead of it, which is decoded as well.
  expect(Math.abs((times?.offsetSeconds ?? 0) - lateSeconds)).toBeLessThan(0.03);
  expect(times?.durationSeconds).toBeCloseTo(SECONDS, 0);
  if (!times) return;
  const pictureSeconds = 1 / 24;
  for (const number of [0, 1, 2]) {
    const frames = shown(await pictureSegment(host.server, programmeId, number));
    expect(frames[0]?.atSeconds).toBeLessThan(pictureSeconds + 0.001);
    const lengthSeconds = number === 2 ? SECONDS - 20 : 10;
    expect(Math.abs((frames.at(-1)?.atSeconds ?? 0) + pictureSeconds - lengthSeconds)).toBeLessThan(0.06);
    const wrong = frames.filter(({ second, atSeconds }) => {
      const inFilm = 10 * number + atSeconds;
      // Next to where a second begins, the clock of WebM, which counts milliseconds, may tell either.
      const isNear = Math.abs(inFilm - Math.round(inFilm)) < pictureSeconds + 0.002;
      return !isNear && second !== Math.floor(inFilm);
    });
    expect(wrong).toEqual([]);
  }
  await expect(pictureSegment(host.server, programmeId, 3)).rejects.toMatchObject({ code: 'not-found' });
});

test('a segment is small, made once, and of the programmes that were made of its film as well', async () => {
  const { programmes } = viewJob(host.server, host.jobId);
  const filmId = programmes.find(({ title }) => title === 'plain')?.id ?? '';
  await takeInTracks(host.server, filmId, [[1]]);
  await host.server.runner.whenIdle();
  const made = viewJob(host.server, host.jobId).programmes.find(({ title }) => title === 'plain, track 1')?.id ?? '';
  expect(await pictureTimes(host.server, made)).toEqual(await pictureTimes(host.server, filmId));
  const [path] = await Promise.all([pictureSegment(host.server, made, 1), pictureSegment(host.server, filmId, 1)]);
  const { ino, size } = statSync(path);
  expect(size).toBeLessThan(1_500_000);
  const { streams } = JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-show_streams', '-of', 'json', path]).toString(),
  );
  expect(streams).toMatchObject([{ codec_name: 'vp8', width: 480, height: 204 }]);
  expect(statSync(await pictureSegment(host.server, filmId, 1)).ino).toBe(ino);
  // Whoever goes elsewhere meanwhile leaves nothing half made.
  const controller = new AbortController();
  const asked = pictureSegment(host.server, filmId, 2, AbortSignal.any([controller.signal]));
  controller.abort();
  await asked.catch((error) => expect(error).toMatchObject({ code: 'cancelled' }));
  expect(host.files().filter((own) => own.endsWith('.part'))).toEqual([]);
});

test('sound without a picture has none, and neither has a cover', async () => {
  ffmpeg(...sound, '-c:a', 'pcm_s16le', at('sound.wav'));
  const plain = await host.measured(readFileSync(at('sound.wav')), 'sound.wav');
  expect(await pictureTimes(host.server, plain.programmeId)).toBeNull();
  ffmpeg('-f', 'lavfi', '-i', 'color=c=red:s=64x64', '-frames:v', '1', at('cover.png'));
  ffmpeg(
    ...sound,
    '-i',
    at('cover.png'),
    '-map',
    '0',
    '-map',
    '1',
    '-c:a',
    'aac',
    '-c:v',
    'png',
    '-disposition:v:0',
    'attached_pic',
    at('cover.mp4'),
  );
  const covered = await host.measured(readFileSync(at('cover.mp4')), 'cover.mp4');
  expect(await pictureTimes(host.server, covered.programmeId)).toBeNull();
  await expect(pictureSegment(host.server, covered.programmeId, 0)).rejects.toMatchObject({ code: 'not-found' });
});

test('what is shown goes by what is heard', () => {
  const times = { offsetSeconds: -0.5, durationSeconds: 20 };
  expect(pictureSecondsAt(0.4, times)).toBeNull();
  expect(pictureSecondsAt(0.5, times)).toBe(0);
  expect(pictureSecondsAt(20.5, times)).toBeCloseTo(19.99, 6);
  expect(pictureSecondsAt(20.7, times)).toBeNull();
  expect([0, 9.99, 10].map(segmentAt)).toEqual([0, 0, 1]);
});
