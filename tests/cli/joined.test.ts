/** `measure --joined`: files read as one programme, against the file that FFmpeg joins of them, read by us and by FFmpeg. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { dbToAmplitude } from '@/core/units/decibel';
import { ffmpegLoudness, opsimeter } from '../fixtures/command';
import { ffmpeg } from '../fixtures/ffmpeg';
import { musicLike } from '../fixtures/material';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const GAP_SECONDS = 1.7;
const { abs } = Math;

let folder: string;
let tracks: string[];
const at = (name: string) => join(folder, name);

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'opsimeter-joined-'));
  const music = musicLike();
  const frames = music[0]?.length ?? 0;
  // Twelve pieces of odd lengths, each at a level of its own.
  tracks = Array.from({ length: 12 }, (_, i) => {
    const length = 9 * RATE + 7919 * i;
    const start = (i * 104_729) % (frames - length);
    const gain = dbToAmplitude(-14 + ((i * 7) % 12));
    const path = at(`${String(i + 1).padStart(2, '0')}.wav`);
    writeFileSync(path, wavOf(music.map((samples) => samples.slice(start, start + length).map((x) => gain * x))));
    return path;
  });
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Joins files by FFmpeg: with silence between them, or with crossfades at equal power. */
function joinByFfmpeg(name: string, gapSeconds: number): string {
  const path = at(name);
  const inputs = tracks.flatMap((track) => ['-i', track]);
  const last = tracks.length - 1;
  const graph =
    gapSeconds < 0
      ? tracks
          .slice(1)
          .map((_, i) => `[${i === 0 ? '0' : `x${i}`}][${i + 1}]acrossfade=d=${-gapSeconds}:c1=qsin:c2=qsin[x${i + 1}]`)
          .join(';')
      : [
          ...tracks.map((_, i) =>
            i === last ? `[${i}]anull[p${i}]` : `[${i}]apad=pad_len=${Math.round(gapSeconds * RATE)}[p${i}]`,
          ),
          `${tracks.map((_, i) => `[p${i}]`).join('')}concat=n=${tracks.length}:v=0:a=1[x${last}]`,
        ].join(';');
  ffmpeg(...inputs, '-filter_complex', graph, '-map', `[x${last}]`, '-c:a', 'pcm_s24le', path);
  return path;
}

test.each([GAP_SECONDS, 0, -1.3])('twelve files, %d s apart, read as the file that is joined of them', (gapSeconds) => {
  const whole = joinByFfmpeg(`whole${gapSeconds}.wav`, gapSeconds);
  const { code, out, err } = opsimeter('measure', ...tracks, '--joined', '--gap', String(gapSeconds), '--json');
  expect({ code, err }).toEqual({ code: 0, err: '' });
  const { joined, tracks: read, loudest } = JSON.parse(out);
  const [{ readings, format }] = JSON.parse(opsimeter('measure', whole, '--json').out);
  expect(joined.durationSeconds).toBeCloseTo(format.durationSeconds, 4);
  expect(abs(joined.integratedLufs - readings.integratedLufs)).toBeLessThan(0.02);
  expect(abs(joined.integratedLufs - ffmpegLoudness(whole).integratedLufs)).toBeLessThan(0.05);
  expect(abs(joined.loudnessRangeLu - readings.loudnessRangeLu)).toBeLessThan(0.2);
  expect(abs(joined.maxShortTermLufs - readings.maxShortTermLufs)).toBeLessThan(0.1);
  // Where nothing overlaps, peaks are those of the files.
  if (gapSeconds >= 0) expect(joined.truePeakDbtp).toBeCloseTo(readings.truePeakDbtp, 3);

  const alone = JSON.parse(opsimeter('measure', ...tracks, '--json').out) as { readings: { integratedLufs: number } }[];
  const loudness = alone.map(({ readings: { integratedLufs } }) => integratedLufs);
  expect(loudest).toBe(tracks[loudness.indexOf(Math.max(...loudness))]);
  read.forEach((track: { file: string; integratedLufs: number; fromWholeLu: number }, i: number) => {
    expect(track.file).toBe(tracks[i]);
    expect(track.integratedLufs).toBeCloseTo(loudness[i] as number, 6);
    expect(track.fromWholeLu).toBeCloseTo((loudness[i] as number) - joined.integratedLufs, 6);
  });
});

test('for people, each file has its place and its distance from the whole', () => {
  const { code, out } = opsimeter('measure', ...tracks.slice(0, 3), '--joined', '--gap', '2');
  expect(code).toBe(0);
  expect(out).toMatch(/^3 files, played in this order · /);
  expect(out).toMatch(/Integrated +−\d+\.\d LUFS/);
  expect(out).toMatch(/ 2 02\.wav · 0:11\.000 · −\d+\.\d LUFS · [+−]\d+\.\d LU from the whole/);
  expect(out.match(/ · loudest$/gm)).toHaveLength(1);
});

test('what can not be joined is told, and no reading of a part is called that of the whole', () => {
  writeFileSync(at('short.wav'), wavOf([new Float32Array(RATE), new Float32Array(RATE)]));
  const [first = '', second = ''] = tracks;
  expect(opsimeter('measure', first, at('short.wav'), second, '--joined', '--gap', '-0.6')).toMatchObject({
    code: 2,
    out: '',
    err: expect.stringContaining('programme 2 is shorter than its overlaps'),
  });
  expect(opsimeter('measure', first, at('missing.wav'), '--joined', '--json')).toMatchObject({ code: 2, out: '' });
  expect(opsimeter('measure', first, '--joined', '--gap', 'wide')).toMatchObject({
    code: 2,
    err: expect.stringContaining('--gap'),
  });
});
