/** Files as encoders write them, decoded frame for frame: FFmpeg encodes, and what comes back is compared. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode } from '@/codecs/decode';
import { probe } from '@/codecs/probe';
import { isAppError } from '@/core/errors/app-error';
import { bytesOf, decodedByFfmpeg, ffmpeg, firstDifference, material } from '../fixtures/ffmpeg';

const RATE = 48_000;
const FRAMES = 3 * RATE + 1717;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-decode-'));
const at = (name: string) => join(folder, name);
const original = { 16: at('16.wav'), 24: at('24.wav') };

beforeAll(() => {
  ffmpeg(...material(2, RATE, FRAMES), '-c:a', 'pcm_s16le', original[16]);
  ffmpeg(...material(2, RATE, FRAMES), '-c:a', 'pcm_s24le', original[24]);
});
afterAll(() => rmSync(folder, { recursive: true }));

async function decoded(path: string, track?: number) {
  const probed = await probe(path, 'file', track);
  const output = `${path}.decoded.wav`;
  const errors = await decode(path, probed, output, 'file');
  return { ...probed, errors, samples: decodedByFfmpeg(output, probed.format.channels) };
}

test.each([
  ['FLAC, 16 bits', 16, 'a16.flac', ['-c:a', 'flac'], { container: 'FLAC', codec: 'FLAC', bitDepth: 16 }],
  ['FLAC, 24 bits', 24, 'a24.flac', ['-c:a', 'flac'], { container: 'FLAC', codec: 'FLAC', bitDepth: 24 }],
  ['ALAC', 24, 'a.m4a', ['-c:a', 'alac', '-sample_fmt', 's32p'], { container: 'MPEG-4', codec: 'ALAC', bitDepth: 24 }],
  ['WavPack', 16, 'a.wv', ['-c:a', 'wavpack'], { container: 'WavPack', codec: 'WavPack', bitDepth: 16 }],
  ['PCM in CAF', 24, 'a.caf', ['-c:a', 'pcm_s24be'], { container: 'CAF', codec: 'PCM', bitDepth: 24 }],
] as const)('%s comes back bit for bit', async (_name, bits, file, args, format) => {
  ffmpeg('-i', original[bits], ...args, at(file));
  const result = await decoded(at(file));
  expect(result.format).toMatchObject({ ...format, sampleRateHz: RATE, channels: 2, bitRateBps: null, track: null });
  expect(result.errors).toBe(0);
  expect(firstDifference(result.samples, decodedByFfmpeg(original[bits], 2))).toBeUndefined();
});

/** Frames that `b` stands behind `a`, by the greatest correlation within 3000 either way. */
function lagOf(a: Float32Array, b: Float32Array): number {
  let best = { lag: 0, product: 0 };
  for (let lag = -3000; lag <= 3000; lag++) {
    let product = 0;
    for (let i = 20_000; i < 22_000; i++) product += (a[i] ?? Number.NaN) * (b[i + lag] ?? Number.NaN);
    if (product > best.product) best = { lag, product };
  }
  return best.lag;
}

test.each([
  ['MP3', 'b.mp3', ['-c:a', 'libmp3lame', '-b:a', '192k'], { container: 'MPEG audio', codec: 'MP3' }],
  ['Opus', 'b.opus', ['-c:a', 'libopus', '-b:a', '160k'], { container: 'Ogg', codec: 'Opus' }],
  ['Vorbis', 'b.ogg', ['-c:a', 'libvorbis', '-q:a', '6'], { container: 'Ogg', codec: 'Vorbis' }],
] as const)('%s has the frames that were encoded, none early and none late', async (_name, file, args, format) => {
  ffmpeg('-i', original[16], ...args, at(file));
  const { samples, format: actual, errors } = await decoded(at(file));
  expect(actual).toMatchObject({ ...format, bitDepth: null, sampleFormat: 'float' });
  expect(actual.bitRateBps).toBeGreaterThan(64_000);
  expect(errors).toBe(0);
  const [left] = decodedByFfmpeg(original[16], 2) as [Float32Array];
  expect(samples[0]).toHaveLength(FRAMES);
  expect(lagOf(left, samples[0] as Float32Array)).toBe(0);
});

test('AAC in MPEG-4 begins where it was encoded, and ends within a frame of the codec behind it', async () => {
  ffmpeg('-i', original[16], '-c:a', 'aac', '-b:a', '192k', at('b.m4a'));
  const { samples, format } = await decoded(at('b.m4a'));
  expect(format).toMatchObject({ container: 'MPEG-4', codec: 'AAC', bitDepth: null });
  const [left] = decodedByFfmpeg(original[16], 2) as [Float32Array];
  expect(lagOf(left, samples[0] as Float32Array)).toBe(0);
  // Where it ends, the container tells to the millisecond only: rather some silence more than sound less.
  expect((samples[0] as Float32Array).length - FRAMES).toBeGreaterThanOrEqual(0);
  expect((samples[0] as Float32Array).length - FRAMES).toBeLessThanOrEqual(1024);
});

// Elementary streams of these don't tell what the encoder put ahead: common practice, no source.
test.each([
  ['MP2', 'c.mp2', ['-c:a', 'mp2', '-b:a', '256k'], 1152],
  ['AC-3', 'c.ac3', ['-c:a', 'ac3', '-b:a', '384k'], 1536],
] as const)('%s is decoded to within a frame of the codec', async (_name, file, args, codecFrames) => {
  ffmpeg('-i', original[16], ...args, at(file));
  const { samples } = await decoded(at(file));
  expect(Math.abs((samples[0] as Float32Array).length - FRAMES)).toBeLessThanOrEqual(2 * codecFrames);
});

test('AC-3 is measured as it was encoded, whatever it says of its dynamics', async () => {
  ffmpeg('-i', original[16], '-c:a', 'ac3', '-b:a', '384k', '-dialnorm', '-20', at('d.ac3'));
  ffmpeg('-drc_scale', '0', '-i', at('d.ac3'), '-c:a', 'pcm_f32le', at('d.wav'));
  expect(firstDifference((await decoded(at('d.ac3'))).samples, decodedByFfmpeg(at('d.wav'), 2))).toBeUndefined();
});

test('what stands beyond full scale in a lossy file stays', async () => {
  ffmpeg('-f', 'lavfi', '-i', `aevalsrc=1.3*sin(2000*t):s=${RATE}:d=1`, '-c:a', 'aac', '-b:a', '192k', at('loud.m4a'));
  const { samples } = await decoded(at('loud.m4a'));
  expect(Math.max(...(samples[0] as Float32Array))).toBeGreaterThan(1.05);
});

test('of a video, the sound track that is asked for', async () => {
  const picture = ['-f', 'lavfi', '-i', 'color=c=black:s=64x64:r=25:d=1'];
  ffmpeg(
    ...picture,
    ...['-i', original[16], '-f', 'lavfi', '-i', `sine=frequency=700:sample_rate=${RATE}:duration=2`],
    ...['-map', '0:v', '-map', '1:a', '-map', '2:a', '-c:v', 'mpeg4', '-c:a', 'flac', at('film.mkv')],
  );
  const first = await decoded(at('film.mkv'));
  expect(first.format).toMatchObject({ container: 'Matroska', codec: 'FLAC', track: { number: 1, of: 2 } });
  expect(firstDifference(first.samples, decodedByFfmpeg(original[16], 2))).toBeUndefined();
  const second = await decoded(at('film.mkv'), 2);
  expect(second.format).toMatchObject({ channels: 1, track: { number: 2, of: 2 } });
  expect(second.samples[0]).toHaveLength(2 * RATE);
});

describe('what is refused', () => {
  const refusal = async (name: string, content: string | Uint8Array) => {
    writeFileSync(at(name), content);
    return probe(at(name), name).catch((error: unknown) => error);
  };
  test.each([
    ['text', 'take3.mp3', 'Take 3 was better. '.repeat(200), 'not-audio'],
    ['a playlist', 'list.m3u8', `#EXTM3U\n#EXTINF:10,\nfile:///etc/passwd\n`, 'not-audio'],
    ['a script that joins files', 'join.txt', `ffconcat version 1.0\nfile '16.wav'\n`, 'not-audio'],
    ['nothing', 'empty.flac', '', 'no-sound-track'],
  ])('%s', async (_name, file, content, code) => {
    expect(await refusal(file, content)).toMatchObject({ code });
  });

  test('a video without sound', async () => {
    ffmpeg('-f', 'lavfi', '-i', 'color=c=black:s=64x64:r=25:d=1', '-c:v', 'mpeg4', at('mute.mp4'));
    await expect(probe(at('mute.mp4'), 'mute.mp4')).rejects.toMatchObject({ code: 'no-sound-track' });
  });
});

test('a damaged file is decoded as far as it goes, and the complaints are counted', async () => {
  ffmpeg('-i', original[16], '-c:a', 'flac', at('damaged.flac'));
  const bytes = bytesOf(at('damaged.flac'));
  bytes.fill(0x55, bytes.length / 2, bytes.length / 2 + 3000);
  writeFileSync(at('damaged.flac'), bytes);
  const { errors, samples } = await decoded(at('damaged.flac'));
  expect(errors).toBeGreaterThan(0);
  expect((samples[0] as Float32Array).length).toBeGreaterThan(FRAMES / 2);
});

test('cancelled, it ends at once and says so', async () => {
  const long = at('long.flac');
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    'anoisesrc=r=48000:d=600:a=0.3',
    '-ac',
    '2',
    '-c:a',
    'flac',
    '-compression_level',
    '0',
    long,
  );
  const cancelling = new AbortController();
  const running = decode(long, await probe(long, 'long.flac'), at('long.wav'), 'long.flac', {
    signal: cancelling.signal,
    onProgress: () => cancelling.abort(),
  });
  const error = await running.catch((thrown: unknown) => thrown);
  expect(isAppError(error, 'cancelled')).toBe(true);
});

test('without FFmpeg, that is what is said', async () => {
  const before = process.env.OPSIMETER_FFMPEG;
  process.env.OPSIMETER_FFMPEG = at('nowhere/ffmpeg');
  try {
    await expect(probe(original[16], 'x.flac')).rejects.toMatchObject({ code: 'ffmpeg-missing' });
  } finally {
    if (before === undefined) delete process.env.OPSIMETER_FFMPEG;
    else process.env.OPSIMETER_FFMPEG = before;
  }
});
