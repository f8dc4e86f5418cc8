/** What every writer of PCM owes: what it writes is read back to the bit, by us and by FFmpeg, and SoX has nothing to say against it. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createAiffWriter } from '@/formats/aiff/writer';
import { type ByteSink, bytesSource } from '@/formats/bytes';
import { WRITTEN_DEPTHS, type WrittenDepth } from '@/formats/pack';
import { PcmReader } from '@/formats/pcm-reader';
import type { PcmLayout } from '@/formats/pcm-writer';
import { createWavWriter } from '@/formats/wav/writer';
import { decodedByFfmpeg, firstDifference } from '../fixtures/ffmpeg';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-writers-'));
afterAll(() => rmSync(folder, { recursive: true }));

const WRITERS = [
  ['WAV', 'wav', (sink: ByteSink, layout: PcmLayout) => createWavWriter(sink, { ...layout, channelMask: 0 })],
  [
    'AIFF',
    'aiff',
    (sink: ByteSink, layout: PcmLayout) => createAiffWriter(sink, { channelMask: 0, ...layout }, 'file'),
  ],
] as const;
const FRAMES = 10_001;

const material = (channels: number) =>
  Array.from({ length: channels }, (_, c) =>
    Float32Array.from({ length: FRAMES }, (_unused, n) => 0.9 * Math.sin(n * (0.01 + 0.003 * c)) * Math.sin(n / 900)),
  );

/** On the grid of a depth, as it has to come back: integers know no zero below zero. */
const quantised = (samples: Float32Array, bitDepth: WrittenDepth) =>
  bitDepth === 32 ? samples : samples.map((x) => Math.round(x * 2 ** (bitDepth - 1)) / 2 ** (bitDepth - 1) + 0);

describe.each(WRITERS)('%s', (container, extension, create) => {
  describe.each(WRITTEN_DEPTHS)('%i bits', (bitDepth) => {
    test.each([
      [1, 44_100],
      [2, 48_000],
      [5, 96_000],
      [6, 192_000],
    ])('%i channels at %i Hz: read back to the bit, by us and by FFmpeg', async (channels, sampleRateHz) => {
      const pieces: Uint8Array[] = [];
      const sink = { write: async (bytes: Uint8Array) => void pieces.push(bytes.slice()) };
      const writer = await create(sink, { sampleRateHz, channels, frames: FRAMES, bitDepth });
      const source = material(channels);
      for (let from = 0; from < FRAMES; from += 3000) {
        const parts = source.map((samples) => samples.subarray(from, from + 3000));
        await writer.write(parts, parts[0]?.length ?? 0, 1);
      }
      await writer.finish();
      const bytes = Buffer.concat(pieces);
      const expected = source.map((samples) => quantised(samples, bitDepth));

      const reader = await PcmReader.open(bytesSource(bytes), 'file');
      const isFloatAiff = container === 'AIFF' && bitDepth === 32;
      expect(reader.header).toMatchObject({
        format: { container: isFloatAiff ? 'AIFF-C' : container, bitDepth, channels, sampleRateHz, frames: FRAMES },
        missingFrames: 0,
        sizeUnknown: false,
      });
      const read = source.map((samples) => new Float32Array(samples.length));
      for (let piece = await reader.next(); piece; piece = await reader.next()) {
        const { frames } = piece;
        piece.channels.forEach((samples, c) => {
          read[c]?.set(samples.subarray(0, frames), reader.frame - frames);
        });
      }
      expect(firstDifference(read, expected)).toBeUndefined();

      const path = join(folder, `${channels}-${bitDepth}.${extension}`);
      writeFileSync(path, bytes);
      expect(firstDifference(decodedByFfmpeg(path, channels), expected)).toBeUndefined();
      // The size that the header states is that of the file.
      const stated = container === 'AIFF' ? bytes.readUInt32BE(4) : bytes.readUInt32LE(4);
      expect(stated + 8).toBe(bytes.length);
      // SoX knows how long it is, and finds nothing missing; but that it says so of every extensible header of floats, FFmpeg's too.
      const sox = spawnSync('soxi', ['-s', path], { encoding: 'utf8' });
      const isExtensibleFloat = container === 'WAV' && bitDepth === 32 && channels > 2;
      expect(sox.stdout.trim()).toBe(String(FRAMES));
      if (!isExtensibleFloat) expect(sox.stderr).toBe('');
    });
  });

  test('full scale is held, and counted; frames that were announced have to come', async () => {
    const sink = { write: async () => undefined };
    const writer = await create(sink, { sampleRateHz: 48_000, channels: 1, frames: 4 });
    await writer.write([Float32Array.of(1, 1.5, -1, -1.5)], 4, 1);
    expect(writer.clippedSamples).toBe(2);
    await writer.finish();
    const short = await create(sink, { sampleRateHz: 48_000, channels: 1, frames: 4 });
    await expect(short.finish()).rejects.toThrow(RangeError);
  });
});

test('what an AIFF can not hold is refused in words', async () => {
  const layout = { sampleRateHz: 96_000, channels: 8, frames: 300_000_000 };
  await expect(
    createAiffWriter({ write: async () => undefined }, { channelMask: 0, ...layout }, 'hall.aiff'),
  ).rejects.toMatchObject({
    code: 'not-writable',
    message: expect.stringContaining('no more than 4 GiB'),
  });
});
