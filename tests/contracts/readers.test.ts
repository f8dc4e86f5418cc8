/** What every reader of PCM owes: FFmpeg and SoX write a file of each kind, and FFmpeg reads it beside us. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { isAppError } from '@/core/errors/app-error';
import { bytesSource } from '@/formats/bytes';
import { PcmReader } from '@/formats/pcm-reader';
import { bytesOf, decodedByFfmpeg, ffmpeg, firstDifference, material, sox } from '../fixtures/ffmpeg';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-readers-'));
afterAll(() => rmSync(folder, { recursive: true }));

const KINDS = [
  { name: 'WAV u8', file: 'u8.wav', args: ['-c:a', 'pcm_u8'], container: 'WAV', bitDepth: 8 },
  { name: 'WAV s16', file: 's16.wav', args: ['-c:a', 'pcm_s16le'], container: 'WAV', bitDepth: 16 },
  { name: 'WAV s24', file: 's24.wav', args: ['-c:a', 'pcm_s24le'], container: 'WAV', bitDepth: 24 },
  { name: 'WAV s32', file: 's32.wav', args: ['-c:a', 'pcm_s32le'], container: 'WAV', bitDepth: 32 },
  { name: 'WAV f32', file: 'f32.wav', args: ['-c:a', 'pcm_f32le'], container: 'WAV', bitDepth: 32 },
  { name: 'WAV f64', file: 'f64.wav', args: ['-c:a', 'pcm_f64le'], container: 'WAV', bitDepth: 64 },
  { name: 'RF64', file: 'rf64.wav', args: ['-c:a', 'pcm_s24le', '-rf64', 'always'], container: 'RF64', bitDepth: 24 },
  { name: 'AIFF s8', file: 's8.aiff', args: ['-c:a', 'pcm_s8'], container: 'AIFF', bitDepth: 8 },
  { name: 'AIFF s16', file: 's16.aiff', args: ['-c:a', 'pcm_s16be'], container: 'AIFF', bitDepth: 16 },
  { name: 'AIFF s24', file: 's24.aiff', args: ['-c:a', 'pcm_s24be'], container: 'AIFF', bitDepth: 24 },
  { name: 'AIFF s32', file: 's32.aiff', args: ['-c:a', 'pcm_s32be'], container: 'AIFF', bitDepth: 32 },
  { name: 'AIFF-C sowt', file: 'sowt.aiff', args: ['-c:a', 'pcm_s16le'], container: 'AIFF-C', bitDepth: 16 },
  { name: 'AIFF-C fl32', file: 'fl32.aiff', args: ['-c:a', 'pcm_f32be'], container: 'AIFF-C', bitDepth: 32 },
  { name: 'AIFF-C fl64', file: 'fl64.aiff', args: ['-c:a', 'pcm_f64be'], container: 'AIFF-C', bitDepth: 64 },
];

async function readAll(bytes: Uint8Array) {
  const reader = await PcmReader.open(bytesSource(bytes), 'file');
  const { channels, frames } = reader.header.format;
  const planar = Array.from({ length: channels }, () => new Float32Array(frames));
  for (let piece = await reader.next(), at = 0; piece; piece = await reader.next()) {
    const { channels: samples, frames: count } = piece;
    for (const [c, channel] of planar.entries()) channel.set((samples[c] as Float32Array).subarray(0, count), at);
    at += count;
  }
  return { header: reader.header, planar };
}

describe.each(KINDS)('$name', ({ file, args, container, bitDepth }) => {
  test.each([
    [1, 44_100],
    [2, 48_000],
    [6, 96_000],
  ])('%i channels at %i Hz: every sample as FFmpeg reads it', async (channels, sampleRateHz) => {
    const path = join(folder, `${channels}-${file}`);
    const frames = 40_001;
    ffmpeg(...material(channels, sampleRateHz, frames), ...args, path);
    const { header, planar } = await readAll(bytesOf(path));
    expect(header.format).toMatchObject({ container, bitDepth, codec: 'PCM', channels, sampleRateHz, frames });
    expect(header).toMatchObject({ missingFrames: 0, sizeUnknown: false });
    expect(firstDifference(planar, decodedByFfmpeg(path, channels))).toBeUndefined();
  });

  test('cut short: what is there is read, and what is missing is counted', async () => {
    const path = join(folder, `2-${file}`);
    const bytes = bytesOf(path);
    const whole = await readAll(bytes);
    const cut = await readAll(bytes.subarray(0, Math.floor(bytes.length * 0.6)));
    const { frames } = cut.header.format;
    expect(frames).toBeLessThan(25_000);
    expect(frames + cut.header.missingFrames).toBe(whole.header.format.frames);
    const expected = whole.planar.map((samples) => samples.subarray(0, frames));
    expect(firstDifference(cut.planar, expected)).toBeUndefined();
  });

  test('cut off anywhere in its first 200 bytes: an error that says why, or a readable start', async () => {
    const bytes = bytesOf(join(folder, `2-${file}`));
    for (let length = 0; length < 200; length++) {
      const error = await readAll(bytes.subarray(0, length)).catch((thrown: unknown) => thrown);
      if (error instanceof Error) expect([length, isAppError(error)]).toEqual([length, true]);
    }
  });
});

/** SoX writes headers of its own: padded depths, extensible formats, chunks in another order. */
describe.each([
  ['u8.wav', ['-b', '8'], 'WAV', 8],
  ['s16.wav', ['-b', '16'], 'WAV', 16],
  ['s24.wav', ['-b', '24'], 'WAV', 24],
  ['s32.wav', ['-b', '32'], 'WAV', 32],
  ['f32.wav', ['-b', '32', '-e', 'floating-point'], 'WAV', 32],
  ['f64.wav', ['-b', '64', '-e', 'floating-point'], 'WAV', 64],
  ['s8.aiff', ['-b', '8'], 'AIFF', 8],
  ['s16.aiff', ['-b', '16'], 'AIFF', 16],
  ['s24.aiff', ['-b', '24'], 'AIFF', 24],
  ['s24.aifc', ['-b', '24'], 'AIFF-C', 24],
])('as SoX writes it: %s', (file, args, container, bitDepth) => {
  test.each([1, 2, 6])('%i channels: every sample as FFmpeg reads it', async (channels) => {
    const path = join(folder, `sox-${channels}-${file}`);
    const synth = Array.from({ length: channels }, (_, i) => ['sine', String(300 + 170 * i)]).flat();
    sox('-n', '-r', '48000', '-c', String(channels), ...args, path, 'synth', '20001s', ...synth, 'gain', '-3');
    const { header, planar } = await readAll(bytesOf(path));
    expect(header.format).toMatchObject({ container, bitDepth, channels, sampleRateHz: 48_000, frames: 20_001 });
    expect(firstDifference(planar, decodedByFfmpeg(path, channels))).toBeUndefined();
  });
});
