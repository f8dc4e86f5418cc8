/** Downmixes of surround files by the command, held against FFmpeg's own mixing of the same channels. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ffmpegLoudness, opsimeter } from '../fixtures/command';
import { decodedByFfmpeg, ffmpeg, material } from '../fixtures/ffmpeg';

const RATE = 48_000;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-downmix-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true }));

/** Which of the file's channels go where, and by how much: written by hand from BS.775's table. */
const h = Math.SQRT1_2;
const WAVE_5_1 = [`c0+${h}*c2+${h}*c4`, `c1+${h}*c2+${h}*c5`];
const FILM_5_1 = [`c0+${h}*c1+${h}*c3`, `c2+${h}*c1+${h}*c4`];
const WAVE_7_1 = [`c0+${h}*c2+${h}*c4+${h}*c6`, `c1+${h}*c2+${h}*c5+${h}*c7`];

describe.each([
  ['5.1', 6, [], WAVE_5_1],
  ['5.1 in film order', 6, ['--layout', '5.1-film'], FILM_5_1],
  ['7.1', 8, [], WAVE_7_1],
])('%s', (name, channels, layout, [left, right]) => {
  const source = at(`${name}.wav`);
  const judged = at(`${name} by FFmpeg.wav`);
  beforeAll(() => {
    ffmpeg(...material(channels, RATE, 4 * RATE), '-af', 'volume=-12dB', '-c:a', 'pcm_f32le', source);
    ffmpeg('-i', source, '-af', `pan=stereo|c0=${left}|c1=${right}`, '-c:a', 'pcm_f32le', judged);
  });

  test('is read as FFmpeg mixes it', () => {
    const [read] = JSON.parse(opsimeter('measure', source, '--downmix', 'stereo', '--json', ...layout).out);
    expect(read.format).toMatchObject({ channels: 2, layout: 'stereo' });
    expect(read.readings.integratedLufs).toBeCloseTo(ffmpegLoudness(judged).integratedLufs, 1);
    const [mono] = JSON.parse(opsimeter('measure', source, '--downmix', 'mono', '--json', ...layout).out);
    ffmpeg('-i', judged, '-af', `pan=mono|c0=${h}*c0+${h}*c1`, '-c:a', 'pcm_f32le', at('mono.wav'));
    expect(mono.format).toMatchObject({ channels: 1, layout: 'mono' });
    expect(mono.readings.integratedLufs).toBeCloseTo(ffmpegLoudness(at('mono.wav')).integratedLufs, 1);
  });

  test('is written as FFmpeg mixes it, at the loudness that is asked for', () => {
    const out = at(`${name} stereo.wav`);
    const args = ['--spec', 'ebu-r128', '--downmix', 'stereo', '--bits', '32', '--out', out, '--json', ...layout];
    const { gainDb, verdict } = JSON.parse(opsimeter('master', source, ...args).out);
    expect(verdict.inside).toBe(true);
    const gain = 10 ** (gainDb / 20);
    const [written, mixed] = [decodedByFfmpeg(out, 2), decodedByFfmpeg(judged, 2)];
    for (const [c, samples] of written.entries()) {
      expect(samples.length).toBe(4 * RATE);
      const off = samples.findIndex((sample, n) => Math.abs(sample - gain * (mixed[c]?.[n] ?? 0)) > 2 ** -22);
      expect(off).toBe(-1);
    }
  });
});

test('check judges the downmix, and a file that has none says so', () => {
  expect(opsimeter('check', at('5.1.wav'), '--spec', 'ebu-r128', '--downmix', 'mono').out).toContain('mono');
  ffmpeg(...material(2, RATE, RATE), '-c:a', 'pcm_s16le', at('stereo.wav'));
  for (const args of [
    ['measure', at('stereo.wav'), '--downmix', 'mono'],
    ['master', at('stereo.wav'), '--spec', 'ebu-r128', '--downmix', 'stereo', '--out', at('no.wav')],
  ]) {
    expect(opsimeter(...args)).toMatchObject({ code: 2, err: expect.stringContaining('needs more than two channels') });
  }
  expect(opsimeter('measure', at('5.1.wav'), '--downmix', 'quad').code).toBe(2);
});
