import fc from 'fast-check';
import { AppError } from '@/core/errors/app-error';
import { buildWav, interleave, type WavRecipe, wavOf } from '../../../tests/fixtures/wav';
import { bytesSource } from '../bytes';
import { readPcmHeader } from '../open-pcm';
import { PcmReader } from '../pcm-reader';
import { createWavWriter, wavFileBytes } from './writer';

const FILE = 'mix.wav';
const FRAMES = 1000;
const ramp = Float64Array.from({ length: FRAMES }, (_, n) => Math.sin(n / 11) * 0.8);
const falling = ramp.map((x) => -x / 2);

async function readAll(bytes: Uint8Array) {
  const reader = await PcmReader.open(bytesSource(bytes), FILE);
  const channels = reader.header.format.channels;
  const samples = Array.from({ length: channels }, () => [] as number[]);
  for (let piece = await reader.next(); piece; piece = await reader.next()) {
    for (let c = 0; c < channels; c++)
      samples[c]?.push(...(piece.channels[c] as Float32Array).subarray(0, piece.frames));
  }
  return { reader, samples };
}

const header = (recipe: WavRecipe) => readPcmHeader(bytesSource(buildWav(recipe)), FILE);

async function failure(bytes: Uint8Array): Promise<AppError> {
  const error = await readPcmHeader(bytesSource(bytes), FILE).catch((thrown: unknown) => thrown);
  expect(error).toBeInstanceOf(AppError);
  return error as AppError;
}

test.each([
  [8, false],
  [16, false],
  [24, false],
  [32, false],
  [32, true],
  [64, true],
] as const)('%i bit (float: %s) is read to the sample, in either byte order', async (bits, float) => {
  const { reader, samples } = await readAll(wavOf([ramp, falling], { bits, float }));
  expect(reader.header.format).toMatchObject({
    container: 'WAV',
    bitDepth: bits,
    sampleFormat: float ? 'float' : 'integer',
    frames: FRAMES,
  });
  const turned = await readAll(wavOf([ramp, falling], { bits, float, bigEndian: true }));
  expect(turned.reader.header.format).toEqual({ ...reader.header.format, container: 'RIFX' });
  expect(turned.samples).toEqual(samples);
  const step = float ? 2 ** -24 : Math.max(2 ** -24, 2 ** (1 - bits));
  for (const [c, expected] of [ramp, falling].entries()) {
    const worst = Math.max(...expected.map((x, n) => Math.abs(x - (samples[c]?.[n] ?? Number.NaN))));
    expect(worst).toBeLessThanOrEqual(step);
  }
});

test.each([8_000, 11_025, 44_100, 384_000])('%i Hz is taken as stated', async (sampleRateHz) => {
  expect((await header({ sampleRateHz, data: Buffer.alloc(400) })).format.sampleRateHz).toBe(sampleRateHz);
});

test.each([1, 2, 3, 4, 5, 6, 7, 8, 12, 24])('%i channels keep their order', async (channels) => {
  const planar = Array.from({ length: channels }, (_, c) => new Float64Array(9).fill((c + 1) / 32));
  const { samples } = await readAll(wavOf(planar, { bits: 16 }));
  expect(samples.map(([first]) => first)).toEqual(planar.map(([first]) => first));
});

test('the extensible format gives mask, layout and valid bits', async () => {
  const { format } = await header({
    channels: 6,
    bits: 24,
    validBits: 20,
    channelMask: 0x60f,
    data: Buffer.alloc(18 * 10),
  });
  expect(format).toMatchObject({ bitDepth: 20, channels: 6, channelMask: 0x60f, layout: '5.1', frames: 10 });
});

test('unknown chunks are passed over, odd ones with or without their padding', async () => {
  const data = interleave([ramp], 16);
  for (const padded of [true, false]) {
    const found = await header({
      channels: 1,
      chunks: [
        { id: 'JUNK', body: Buffer.alloc(27), padded: true },
        { id: 'bext', body: Buffer.from('odd'), padded },
      ],
      trailing: [{ id: 'LIST', body: Buffer.from('INFOabcd') }],
      data,
    });
    expect(found).toMatchObject({ missingFrames: 0, sizeUnknown: false, format: { frames: FRAMES } });
  }
});

test('a data size that lies is bounded by the file, and what is missing is counted', async () => {
  const data = interleave([ramp], 16);
  expect(await header({ channels: 1, data, statedDataBytes: 5000 })).toMatchObject({
    format: { frames: FRAMES },
    missingFrames: 1500,
  });
  // A smaller size is believed: what follows may be other chunks.
  expect((await header({ channels: 1, data, statedDataBytes: 400 })).format.frames).toBe(200);
  for (const statedDataBytes of [0, 0xffffffff]) {
    expect(await header({ channels: 1, data, statedDataBytes })).toMatchObject({
      format: { frames: FRAMES },
      missingFrames: 0,
      sizeUnknown: true,
    });
  }
});

test('RF64 and BW64 take their size from ds64 (EBU Tech 3306, ITU-R BS.2088; from memory)', async () => {
  const data = interleave([ramp], 16);
  for (const riffId of ['RF64', 'BW64']) {
    const found = await header({ riffId, channels: 1, data, statedDataBytes: 0xffffffff, ds64DataBytes: data.length });
    expect(found).toMatchObject({
      format: { container: riffId, frames: FRAMES },
      missingFrames: 0,
      sizeUnknown: false,
    });
  }
});

test('a half frame at the end is left out', async () => {
  expect((await header({ data: Buffer.alloc(4 * 10 + 3) })).format.frames).toBe(10);
});

test.each<[string, Uint8Array, string, RegExp]>([
  ['empty file', new Uint8Array(0), 'empty-file', /is empty/],
  ['text renamed', Buffer.from('Take 3 was better. '.repeat(20)), 'not-audio', /not a sound file/],
  ['another RIFF', Buffer.concat([Buffer.from('RIFF\0\0\0\0AVI '), Buffer.alloc(40)]), 'not-audio', /not a sound file/],
  ['a few bytes', Buffer.from('RIFF'), 'not-audio', /not a sound file/],
  ['header only', buildWav().subarray(0, 36), 'no-audio', /no audio/],
  ['no data', buildWav(), 'no-audio', /no audio/],
  [
    'no format',
    Buffer.concat([Buffer.from('RIFF\0\0\0\0WAVEdata\x08\0\0\0'), Buffer.alloc(8)]),
    'header-damaged',
    /before its format/,
  ],
  ['cut in the format', buildWav().subarray(0, 28), 'header-damaged', /cut short/],
  ['zero channels', buildWav({ channels: 0, blockAlign: 4, data: Buffer.alloc(64) }), 'no-channels', /zero channels/],
  ['129 channels', buildWav({ channels: 129, data: Buffer.alloc(5000) }), 'too-many-channels', /129 channels/],
  ['rate 0', buildWav({ sampleRateHz: 0, data: Buffer.alloc(64) }), 'unsupported-rate', /0 Hz/],
  [
    'absurd rate',
    buildWav({ sampleRateHz: 4_000_000_000, data: Buffer.alloc(64) }),
    'unsupported-rate',
    /4000000000 Hz/,
  ],
  ['compressed', buildWav({ formatTag: 0x55, data: Buffer.alloc(64) }), 'unsupported-codec', /0x0055/],
  ['12 bit', buildWav({ bits: 12, data: Buffer.alloc(64) }), 'unsupported-depth', /12-bit integer/],
  ['16-bit float', buildWav({ formatTag: 3, bits: 16, data: Buffer.alloc(64) }), 'unsupported-depth', /16-bit float/],
  ['a wrong frame size', buildWav({ blockAlign: 3, data: Buffer.alloc(64) }), 'header-damaged', /3 bytes a frame/],
])('%s is refused with its own sentence', async (_, bytes, code, words) => {
  const error = await failure(bytes);
  expect(error.code).toBe(code);
  expect(error.message).toMatch(words);
  expect(error.message).toContain(FILE);
});

test('samples that are not finite are read as silence and counted', async () => {
  const data = interleave([ramp], 32, true);
  data.writeFloatLE(Number.NaN, 40);
  data.writeFloatLE(Number.POSITIVE_INFINITY, 80);
  data.writeFloatLE(Number.NEGATIVE_INFINITY, 120);
  const { reader, samples } = await readAll(buildWav({ channels: 1, bits: 32, formatTag: 3, data }));
  expect(reader.nonFiniteSamples).toBe(3);
  expect([10, 20, 30].map((n) => samples[0]?.[n])).toEqual([0, 0, 0]);
});

test('any bytes whatever lead to a header or to an error of ours', async () => {
  const valid = buildWav({
    channels: 2,
    channelMask: 3,
    chunks: [{ id: 'JUNK', body: Buffer.alloc(9) }],
    data: Buffer.alloc(64),
  });
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(fc.nat(valid.length - 1), fc.nat(255)), { minLength: 1, maxLength: 12 }),
      fc.nat(valid.length),
      async (changes, length) => {
        const bytes = Uint8Array.from(valid);
        for (const [at, value] of changes) bytes[at] = value;
        await readPcmHeader(bytesSource(bytes.subarray(0, length)), FILE).catch((error: unknown) => {
          if (!(error instanceof AppError)) throw error;
        });
      },
    ),
    { numRuns: 5000 },
  );
});

describe('the writer', () => {
  async function write(channels: Float32Array[], options: { amplitude?: number; channelMask?: number } = {}) {
    const pieces: Buffer[] = [];
    const frames = channels[0]?.length ?? 0;
    const layout = { sampleRateHz: 48_000, channels: channels.length, channelMask: options.channelMask ?? 0, frames };
    const writer = await createWavWriter({ write: async (bytes) => void pieces.push(Buffer.from(bytes)) }, layout);
    await writer.write(channels, frames, options.amplitude ?? 1);
    await writer.finish();
    const bytes = Buffer.concat(pieces);
    expect(bytes.length).toBe(wavFileBytes(layout));
    return { bytes, writer };
  }

  test('gives back 24-bit samples bit for bit at a gain of 0 dB', async () => {
    const source = wavOf([ramp, falling], { bits: 24 });
    const { samples } = await readAll(source);
    const { bytes } = await write(samples.map((channel) => Float32Array.from(channel)));
    expect(bytes).toEqual(source);
  });

  test('rounds to the nearest and holds at full scale what does not fit, and counts it', async () => {
    const step = 2 ** -23;
    const { bytes, writer } = await write([
      Float32Array.from([0.4 * step, 0.6 * step, -0.6 * step, 1, 1.5, -1, -1.5, 0.25]),
    ]);
    const codes = Array.from({ length: 8 }, (_, n) => bytes.readIntLE(44 + 3 * n, 3));
    expect(codes).toEqual([0, 1, -1, 0x7fffff, 0x7fffff, -0x800000, -0x800000, 0x200000]);
    expect(writer.clippedSamples).toBe(2);
  });

  test('pads odd data, and writes more than two channels as extensible with their mask', async () => {
    const { bytes } = await write([Float32Array.from([0.1])]);
    expect(bytes.length % 2).toBe(0);
    expect(bytes.readUInt32LE(40)).toBe(3);
    const surround = await write(
      Array.from({ length: 6 }, () => new Float32Array(4)),
      { channelMask: 0x3f },
    );
    expect((await readPcmHeader(bytesSource(surround.bytes), FILE)).format).toMatchObject({
      layout: '5.1',
      channelMask: 0x3f,
    });
  });

  test('announces more than 4 GiB as RF64 that the reader understands', async () => {
    const layout = { sampleRateHz: 96_000, channels: 8, channelMask: 0x63f, frames: 250_000_000 };
    let head = Buffer.alloc(0);
    const sink = {
      async write(bytes: Uint8Array) {
        head = Buffer.from(bytes);
      },
    };
    await createWavWriter(sink, layout);
    const sparse = {
      size: wavFileBytes(layout),
      async read(target: Uint8Array, offset: number) {
        target.fill(0);
        if (offset < head.length) target.set(head.subarray(offset, offset + target.length));
        return target.length;
      },
    };
    expect(await readPcmHeader(sparse, FILE)).toMatchObject({
      format: { container: 'RF64', frames: 250_000_000 },
      missingFrames: 0,
      sizeUnknown: false,
    });
  });

  test('does not end before every announced frame is written', async () => {
    const writer = await createWavWriter(
      { write: async () => undefined },
      { sampleRateHz: 48_000, channels: 1, channelMask: 0, frames: 2 },
    );
    await writer.write([new Float32Array(1)], 1, 1);
    await expect(writer.finish()).rejects.toThrow('1 frames were written where 2 were announced');
  });
});
