/**
 * True peak of music against interpolation through the discrete Fourier transform, 64 values to a sample and no filter at all
 * (tests/fixtures/fourier-peak). The music is made at 88.2 kHz, full of treble, and brought to 44.1 kHz as a converter does:
 * flat to 20 kHz and nothing left at half the rate. Then it is clipped, and coded and decoded by FFmpeg. The bound is our own.
 */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { seededRandom } from '@/cli/demo/random';
import { music, normalise } from '@/cli/demo/synth';
import { decodedByFfmpeg, ffmpeg } from '../fixtures/ffmpeg';
import { fourierTruePeakDbtp } from '../fixtures/fourier-peak';
import { limit } from '../fixtures/limit';
import { measure } from '../fixtures/signals';

const { abs, exp, max, min, tanh } = Math;
const RATE = 44_100;
const SECTIONS = [
  { startSeconds: 0, level: 0.4, drums: 0.3 },
  { startSeconds: 1, level: 1.2, drums: 1 },
];

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'opsimeter-peaks-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Mono as raw floats, for FFmpeg. */
function raw(samples: Float32Array, rate: number): string[] {
  const path = join(folder, 'raw.f32');
  writeFileSync(path, new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength));
  return ['-f', 'f32le', '-ar', String(rate), '-ac', '1', '-i', path];
}

function converted(seed: number): Float32Array {
  const random = seededRandom(77 * seed);
  const [left] = music(3.5, 2 * RATE, SECTIONS, seed) as [Float32Array];
  const bright = left.map((x, n) => tanh(2 * x + 1.6 * (random() - 0.5) * exp(-(n % 11_025) / 1800)));
  const path = join(folder, 'converted.wav');
  const filter = `aresample=${RATE}:resampler=soxr:precision=28`;
  ffmpeg(...raw(bright, 2 * RATE), '-af', filter, '-c:a', 'pcm_f32le', path);
  return decodedByFfmpeg(path, 1)[0] as Float32Array;
}

const clipped = (samples: Float32Array, times: number) =>
  (normalise([samples.slice()], times)[0] as Float32Array).map((x) => max(-1, min(1, x)));

function coded(samples: Float32Array, fileName: string, ...options: string[]): Float32Array {
  const path = join(folder, fileName);
  ffmpeg(...raw(samples, RATE), ...options, path);
  return decodedByFfmpeg(path, 1)[0] as Float32Array;
}

const MADE: Record<string, (samples: Float32Array) => Float32Array> = {
  'as a converter gives it': (samples) => samples,
  'clipped by 3.5 dB': (samples) => clipped(samples, 1.5),
  'clipped by 6 dB': (samples) => clipped(samples, 2),
  'MP3 128 kbit/s of clipped': (samples) => coded(clipped(samples, 2), 'x.mp3', '-b:a', '128k'),
  'MP3 320 kbit/s of clipped': (samples) => coded(clipped(samples, 2), 'x.mp3', '-b:a', '320k'),
  'AAC 256 kbit/s of clipped, to half the rate': (samples) =>
    coded(clipped(samples, 2), 'x.m4a', '-b:a', '256k', '-cutoff', '22050'),
  'Vorbis of clipped': (samples) => coded(clipped(samples, 2), 'x.ogg', '-c:a', 'libvorbis', '-q:a', '8'),
};

test.each(Object.keys(MADE))('music %s reads within 0.03 dB', (name) => {
  for (const seed of [1, 2, 3]) {
    const samples = (MADE[name] as (samples: Float32Array) => Float32Array)(converted(seed));
    const readDbtp = measure([samples], RATE).readings.truePeakDbtp ?? Number.NaN;
    expect(abs(readDbtp - fourierTruePeakDbtp([samples]))).toBeLessThan(0.03);
  }
});

test.each([1, 2])('and once limited, by meter and by transform it is no more than the ceiling (music %i)', (seed) => {
  const { channels } = limit([normalise([converted(seed)], 1)[0] as Float32Array], RATE, {
    gainDb: 4,
    ceilingDbtp: -1,
  });
  expect(measure(channels, RATE).readings.truePeakDbtp).toBeLessThanOrEqual(-1 + 1e-6);
  expect(fourierTruePeakDbtp(channels)).toBeLessThanOrEqual(-1);
});
