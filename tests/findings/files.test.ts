/** Findings on real files, as coders, resamplers and editors leave them. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { dyingAway } from '@/cli/demo/synth';
import { findingsOf } from '@/core/findings/findings';
import { viewJob } from '@/server/jobs/jobs';
import { saveTreatment } from '@/server/treatments/treatments';
import { measureFile } from '@/workers/node/measure-file';
import { opsimeter } from '../fixtures/command';
import { createDelivery } from '../fixtures/delivering';
import { ffmpeg } from '../fixtures/ffmpeg';
import { MATERIAL_RATE_HZ, musicLike, speechLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { wavOf } from '../fixtures/wav';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-findings-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true }));

/** Noise as broad as cymbals and applause are, under a tone that moves. */
const broad = (rate: number, seconds = 12) => [
  ...['-f', 'lavfi', '-i'],
  `aevalsrc=0.2*sin(3000*t*t)+0.25*(random(0)-0.5)*(0.3+0.7*abs(sin(2*t)))|0.25*(random(1)-0.5)*(0.3+0.7*abs(sin(3*t))):s=${rate}:d=${seconds}`,
];
async function codesOf(path: string): Promise<string[]> {
  return findingsOf((await measureFile(path)).report).map(({ code }) => code);
}

describe('band-edge: what a lossy coder leaves after it was written as WAV', () => {
  beforeAll(() => ffmpeg(...broad(44_100), '-c:a', 'pcm_s24le', at('broad.wav')));
  test.each([
    ['MP3 128 kb/s', 'a.mp3', ['-c:a', 'libmp3lame', '-b:a', '128k']],
    ['MP3 160 kb/s', 'b.mp3', ['-c:a', 'libmp3lame', '-b:a', '160k']],
    ['MP3 192 kb/s', 'c.mp3', ['-c:a', 'libmp3lame', '-b:a', '192k']],
    ['AAC 96 kb/s', 'd.m4a', ['-c:a', 'aac', '-b:a', '96k']],
    ['Vorbis quality 3', 'e.ogg', ['-c:a', 'libvorbis', '-q:a', '1']],
  ])('found after %s', async (_name, file, args) => {
    ffmpeg('-i', at('broad.wav'), ...args, at(file));
    ffmpeg('-i', at(file), '-c:a', 'pcm_s24le', at(`${file}.wav`));
    expect(await codesOf(at(`${file}.wav`))).toContain('band-edge');
  });
  test.each([
    ['the original', ['-c:a', 'pcm_s24le']],
    ['at 16 bits', ['-c:a', 'pcm_s16le']],
    ['resampled to 48 kHz', ['-ar', '48000', '-c:a', 'pcm_s24le']],
    ['as FLAC and back', ['-c:a', 'pcm_s24le', '-af', 'volume=-3dB']],
    ['with its treble turned down', ['-af', 'treble=g=-18:f=6000', '-c:a', 'pcm_s24le']],
  ])('not on %s', async (_name, args) => {
    ffmpeg('-i', at('broad.wav'), ...args, at('clean.wav'));
    expect(await codesOf(at('clean.wav'))).not.toContain('band-edge');
  });
});

describe('upsampled: what resamplers leave empty', () => {
  test.each([
    [44_100, 88_200, 'pcm_s24le'],
    [44_100, 96_000, 'pcm_s24le'],
    [48_000, 96_000, 'pcm_s24le'],
    [48_000, 96_000, 'pcm_f32le'],
    [48_000, 192_000, 'pcm_s24le'],
  ])('%i Hz brought to %i Hz, %s', async (from, to, codec) => {
    ffmpeg(...broad(from), '-ar', String(to), '-c:a', codec, at('up.wav'));
    expect(await codesOf(at('up.wav'))).toContain('upsampled');
  });
  test.each([
    ['made at 96 kHz', broad(96_000), 'pcm_s24le'],
    ['made at 192 kHz', broad(192_000), 'pcm_s24le'],
    ['made at 96 kHz, 16-bit', broad(96_000), 'pcm_s16le'],
    ['made at 88.2 kHz', broad(88_200), 'pcm_s24le'],
    ['at 48 kHz, from 96', [...broad(96_000), '-ar', '48000'], 'pcm_s24le'],
  ])('not when %s', async (_name, args, codec) => {
    ffmpeg(...args, '-c:a', codec, at('made.wav'));
    expect(await codesOf(at('made.wav'))).not.toContain('upsampled');
  });
});

describe('unused-bits: depths that hold a lesser one', () => {
  test.each([
    ['16 in 24', 'pcm_s16le', 'pcm_s24le', 'wav'],
    ['16 in 32', 'pcm_s16le', 'pcm_s32le', 'wav'],
    ['24 in 32', 'pcm_s24le', 'pcm_s32le', 'wav'],
    ['8 in 16', 'pcm_u8', 'pcm_s16le', 'wav'],
    ['16 in 24, big-endian', 'pcm_s16le', 'pcm_s24be', 'aiff'],
  ])('%s', async (_name, lesser, greater, kind) => {
    ffmpeg(...broad(48_000, 3), '-c:a', lesser, at('lesser.wav'));
    ffmpeg('-i', at('lesser.wav'), '-c:a', greater, at(`greater.${kind}`));
    const { report } = await measureFile(at(`greater.${kind}`));
    expect(findingsOf(report).find(({ code }) => code === 'unused-bits')?.message).toMatch(
      /^A \d+-bit file whose lowest/,
    );
  });
  test.each([
    ['24 in 24', 'pcm_s24le', 'wav'],
    ['16 in 16', 'pcm_s16le', 'wav'],
    ['32 in 32', 'pcm_s32le', 'wav'],
    ['float', 'pcm_f32le', 'wav'],
    ['24 big-endian', 'pcm_s24be', 'aiff'],
  ])('not on %s', async (_name, codec, kind) => {
    ffmpeg(...broad(48_000, 3), '-c:a', codec, at(`whole.${kind}`));
    expect(await codesOf(at(`whole.${kind}`))).not.toContain('unused-bits');
  });
  test('one sample far from every place that is looked at is enough', async () => {
    ffmpeg(...broad(48_000, 60), '-c:a', 'pcm_s16le', at('lesser.wav'));
    ffmpeg('-i', at('lesser.wav'), '-c:a', 'pcm_s24le', at('greater.wav'));
    const bytes = readFileSync(at('greater.wav'));
    for (let at24 = bytes.length - 3 * 48_000; at24 < bytes.length; at24++) {
      if (bytes[at24] !== 0) continue;
      bytes[at24] = 1;
      break;
    }
    writeFileSync(at('greater.wav'), bytes);
    expect(await codesOf(at('greater.wav'))).not.toContain('unused-bits');
  });
});

test('no false alarm on clean music and speech', async () => {
  writeFileSync(at('music.wav'), wavOf(musicLike()));
  writeFileSync(at('speech.wav'), wavOf(dyingAway(speechLike(), 0.5, MATERIAL_RATE_HZ)));
  expect(await codesOf(at('music.wav'))).toEqual([]);
  expect(await codesOf(at('speech.wav'))).toEqual([]);
});

test('a delivery of our own is known by its hash, and anywhere else by its history', async () => {
  const host = new TestServer();
  try {
    const { programmeId } = await host.measured(wavOf(musicLike()), 'music.wav');
    saveTreatment(host.server, programmeId, { gainDb: -4.6 });
    await createDelivery(host.server, programmeId, 'ebu-r128');
    await host.server.runner.whenIdle();
    const written = viewJob(host.server, host.jobId).programmes[0]?.deliveries[0];
    const path = host.server.folder.delivery(host.jobId, written?.fileName ?? '');
    await host.measured(readFileSync(path), 'back.wav');
    const [found] = viewJob(host.server, host.jobId).programmes[1]?.measured?.findings ?? [];
    expect(found).toMatchObject({
      code: 'treated-before',
      message: expect.stringContaining('(gain −4.6 dB, for EBU R 128)'),
    });
    const elsewhere = opsimeter('measure', path, '--json');
    const [{ findings }] = JSON.parse(elsewhere.out);
    expect(findings).toContainEqual(
      expect.objectContaining({ code: 'treated-before', message: expect.stringContaining('(gain −4.6 dB)') }),
    );
  } finally {
    await host.remove();
  }
});
