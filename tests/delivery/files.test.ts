/** What is written: every kind of file, read back by FFmpeg, by its own frames, and by us. */
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { DeliveryFormatInput } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS, FILE_KINDS, type FileKind, isLossy } from '@/core/file-formats/file-formats';
import { specById } from '@/core/spec/catalogue';
import type { Delivered } from '@/workers/node/delivery-order';
import { ffmpegTruePeakDbtp } from '../fixtures/command';
import { delivered } from '../fixtures/delivering';
import { decodedByFfmpeg, firstDifference } from '../fixtures/ffmpeg';
import { MATERIAL_RATE_HZ, musicLike, surround } from '../fixtures/material';
import { wavOf } from '../fixtures/wav';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);

const R128 = specById('ebu-r128');
const STREAMING = specById('streaming-music');
const [left, right] = (musicLike() as [Float32Array, Float32Array]).map((samples) =>
  samples.slice(6 * MATERIAL_RATE_HZ, 18 * MATERIAL_RATE_HZ + 777).map((x) => 0.7 * x),
) as [Float32Array, Float32Array];
const FRAMES = left.length;

beforeAll(() => {
  writeFileSync(at('mix.wav'), wavOf([left, right]));
  writeFileSync(at('surround.wav'), wavOf(surround().map((samples) => samples.slice(0, 5 * MATERIAL_RATE_HZ))));
});

function statedFrames(path: string): number {
  const args = ['-v', 'error', '-show_entries', 'stream=duration_ts', '-of', 'csv=p=0', path];
  return Number(spawnSync('ffprobe', args).stdout.toString());
}

let count = 0;
async function write(
  format: DeliveryFormatInput,
  options: Partial<Parameters<typeof delivered>[2]> = {},
  source = 'mix.wav',
) {
  const path = at(`out${++count}.part`);
  const result = await delivered(at(source), path, { format, spec: R128, treatment: { gainDb: -3 }, ...options });
  return { path, ...result };
}
const leftBeside = () => readdirSync(folder).filter((name) => /rendered|decoded|limiting|resampled|cut/.test(name));

describe.each(FILE_KINDS)('%s', (kind) => {
  let result: Delivered & { path: string };
  beforeAll(async () => {
    result = await write({ kind });
  });

  test('is read back and measured, with its hash, and leaves nothing beside it', () => {
    const { files, report, path, expectedFrames } = result;
    const bytes = readFileSync(path);
    expect(files).toEqual([
      {
        temporaryPath: path,
        channel: null,
        sizeBytes: bytes.length,
        sha256: createHash('sha256').update(bytes).digest('hex'),
      },
    ]);
    expect(report.format.channels).toBe(2);
    expect(expectedFrames).toBe(FRAMES);
    // Bare MP2 and AC-3 do not say how long they are.
    if (FILE_FORMATS[kind].statesLength) expect(report.format.frames).toBe(FRAMES);
    expect(report.format.decodeErrors).toBe(0);
    expect(leftBeside()).toEqual([]);
  });

  test('is as long for FFmpeg, and as loud as the samples that went in', () => {
    const decoded = decodedByFfmpeg(result.path, 2);
    // AAC's last packet is played out by FFmpeg; the file says where it ends.
    if (kind === 'm4a') expect(statedFrames(result.path)).toBe(FRAMES);
    else if (FILE_FORMATS[kind].statesLength) expect(decoded[0]?.length).toBe(FRAMES);
    const power = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0) / FRAMES;
    const lossDb = 10 * Math.log10(power(decoded[0] as Float32Array) / power(left.map((x) => x * 10 ** (-3 / 20))));
    expect(Math.abs(lossDb)).toBeLessThan(isLossy(kind) ? 0.5 : 0.001);
  });
});

test('FLAC holds the samples of the WAV, by their own hash, at 16 and 24 bits', async () => {
  for (const bitDepth of [16, 24] as const) {
    const [wav, flac, aiff, bw64] = await Promise.all(
      (['wav', 'flac', 'aiff', 'bw64'] as FileKind[]).map((kind) => write({ kind, bitDepth })),
    );
    expect(new Set([wav, flac, aiff, bw64].map((own) => own?.audioSha256)).size).toBe(1);
    expect(firstDifference(decodedByFfmpeg(wav?.path ?? '', 2), decodedByFfmpeg(flac?.path ?? '', 2))).toBeUndefined();
    expect(readFileSync(bw64?.path ?? '').toString('latin1', 0, 4)).toBe('BW64');
  }
});

/**
 * Bit rates in kbit/s by the index in a frame's header, MPEG-1 layer III and II, and MPEG-2 layers II and III
 * (ISO/IEC 11172-3 and 13818-3, from memory).
 */
const MPEG_KBPS = {
  '1-3': [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320],
  '1-2': [0, 32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384],
  '2-3': [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160],
  '2-2': [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160],
} as const;
const MPEG_RATES = { 1: [44_100, 48_000, 32_000], 2: [22_050, 24_000, 16_000] } as const;

/** The bit rate of every frame of MPEG audio, parsed from its header; throws where one does not follow another. */
function frameRates(bytes: Buffer): number[] {
  let at = 0;
  if (bytes.toString('latin1', 0, 3) === 'ID3') {
    at = 10 + [6, 7, 8, 9].reduce((size, i) => size * 128 + (bytes[i] ?? Number.NaN), 0);
  }
  const rates: number[] = [];
  while (at + 4 <= bytes.length && bytes.toString('latin1', at, at + 3) !== 'TAG') {
    const header = bytes.readUInt32BE(at);
    if (header >>> 21 !== 0x7ff) throw new Error(`no frame at ${at} of ${bytes.length}`);
    const version = ((header >>> 19) & 3) === 3 ? 1 : 2;
    const layer = 4 - ((header >>> 17) & 3);
    const kbps = MPEG_KBPS[`${version}-${layer}` as keyof typeof MPEG_KBPS][(header >>> 12) & 15] ?? Number.NaN;
    const rate = MPEG_RATES[version][(header >>> 10) & 3] ?? Number.NaN;
    const padding = (header >>> 9) & 1;
    rates.push(kbps);
    at += Math.floor(((layer === 3 && version === 2 ? 72 : 144) * 1000 * kbps) / rate) + padding;
  }
  return rates;
}

test.each<[DeliveryFormatInput, number]>([
  [{ kind: 'mp3', bitRateKbps: 192 }, 192],
  [{ kind: 'mp3', bitRateKbps: 320 }, 320],
  [{ kind: 'mp3', bitRateKbps: 128, sampleRateHz: 44_100 }, 128],
  [{ kind: 'mp3', bitRateKbps: 192, arrangement: 'mono' }, 192],
  [{ kind: 'mp3', bitRateKbps: 64, sampleRateHz: 24_000, arrangement: 'mono' }, 64],
  [{ kind: 'mp2', bitRateKbps: 256 }, 256],
])('%j has every frame at its rate', async (format, kbps) => {
  const { path, report } = await write(format);
  const rates = frameRates(readFileSync(path));
  expect(rates.length).toBeGreaterThan(200);
  expect(new Set(rates)).toEqual(new Set([kbps]));
  if (format.kind === 'mp3')
    expect(report.format.frames).toBe(Math.ceil((FRAMES * report.format.sampleRateHz) / MATERIAL_RATE_HZ));
});

/**
 * What a frame of AC-3 states of itself (ATSC A/52, 5.3 and 5.4, from memory): its bit rate in kbit/s, at 48 kHz, and its dialogue level.
 */
function ac3Frames(bytes: Buffer): { kbps: number; dialnormDb: number }[] {
  const RATES = [32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384, 448, 512, 576, 640];
  const frames: { kbps: number; dialnormDb: number }[] = [];
  for (let at = 0; at < bytes.length; ) {
    if (bytes.readUInt16BE(at) !== 0x0b77) throw new Error(`no frame at ${at} of ${bytes.length}`);
    let bit = 8 * at + 32;
    const next = (count: number) => {
      let value = 0;
      for (let i = 0; i < count; i++, bit++) value = 2 * value + (((bytes[bit >> 3] ?? 0) >> (7 - (bit & 7))) & 1);
      return value;
    };
    const [fscod, frmsizecod] = [next(2), next(6)];
    expect(fscod).toBe(0);
    next(5 + 3);
    const acmod = next(3);
    if ((acmod & 1) === 1 && acmod !== 1) next(2);
    if ((acmod & 4) === 4) next(2);
    if (acmod === 2) next(2);
    next(1);
    const kbps = RATES[frmsizecod >> 1] ?? Number.NaN;
    frames.push({ kbps, dialnormDb: -next(5) });
    at += 4 * kbps;
  }
  return frames;
}

test.each<[DeliveryFormatInput, string, number]>([
  [{ kind: 'ac3', bitRateKbps: 192 }, 'mix.wav', 0],
  [{ kind: 'ac3', bitRateKbps: 192 }, 'mix.wav', -20],
  [{ kind: 'ac3' }, 'surround.wav', -3],
])(
  '%j of %s at %f dB: every frame is at its rate, and states how loud the programme is',
  async (format, source, gainDb) => {
    const { path, report } = await write(format, { treatment: { gainDb } }, source);
    const frames = ac3Frames(readFileSync(path));
    const seconds = report.format.durationSeconds;
    expect(frames.length).toBe(Math.round((seconds * MATERIAL_RATE_HZ) / 1536));
    // From -31, the quietest that it can state.
    const dialnormDb = Math.max(-31, Math.round(report.readings.integratedLufs ?? Number.NaN));
    expect(new Set(frames.map((own) => JSON.stringify(own)))).toEqual(
      new Set([JSON.stringify({ kbps: format.bitRateKbps ?? 448, dialnormDb })]),
    );
  },
);

test.each<FileKind>(['mp2', 'ac3'])('%s begins as many frames late as its format says', async (kind) => {
  const { path } = await write({ kind, bitRateKbps: 256 }, { treatment: { gainDb: 0 } });
  const [decoded = new Float32Array()] = decodedByFfmpeg(path, 2);
  const from = 3 * MATERIAL_RATE_HZ;
  const alike = Array.from({ length: 1200 }, (_, lag) => {
    let sum = 0;
    for (let i = from; i < from + 8192; i++) sum += (left[i] ?? 0) * (decoded[i + lag] ?? 0);
    return sum;
  });
  expect(alike.indexOf(Math.max(...alike))).toBe(FILE_FORMATS[kind].encoderDelayFrames);
});

test.each<FileKind>(['mp2', 'ac3'])('%s of channels in opposite polarity has them in their places', async (kind) => {
  // So long that what comes late by as much as its coder is late looks like the other channel.
  const hz = (19 * MATERIAL_RATE_HZ) / (2 * (FILE_FORMATS[kind].encoderDelayFrames ?? Number.NaN));
  const tone = new Float32Array(2 * MATERIAL_RATE_HZ).map(
    (_, n) => 0.3 * Math.sin((2 * Math.PI * hz * n) / MATERIAL_RATE_HZ),
  );
  writeFileSync(at('opposite.wav'), wavOf([tone, tone.map((x) => -x)]));
  const { report } = await write({ kind }, {}, 'opposite.wav');
  expect(report.format.channels).toBe(2);
});

test('a variable rate is one', async () => {
  const { path } = await write({ kind: 'mp3', mode: 'variable', bitRateKbps: 190 });
  expect(new Set(frameRates(readFileSync(path))).size).toBeGreaterThan(3);
});

test.each<DeliveryFormatInput>([
  { kind: 'mp3', bitRateKbps: 128 },
  { kind: 'mp3', bitRateKbps: 192 },
  { kind: 'm4a', bitRateKbps: 128 },
  { kind: 'opus', bitRateKbps: 128 },
  { kind: 'ogg', bitRateKbps: 128 },
])('%j: what coding lifts above the ceiling is brought below it, on target, and told', async (format) => {
  // Driven 3 dB into a limiter at the ceiling itself: coding moves its peaks above. MP3, which leaves out the highest treble, only
  // does so from a little higher.
  const ceilingDbtp = format.kind === 'mp3' ? -0.9 : -1;
  const { path, report, passes, treatment } = await write(format, {
    spec: STREAMING,
    treatment: { gainDb: 4.2, limit: { ceilingDbtp } },
    landing: { mostGainDb: 12, luPerDb: 0.8 },
  });
  expect(passes.length).toBeLessThanOrEqual(4);
  expect(passes.length).toBeGreaterThan(1);
  expect(passes[0]?.peak).toBeGreaterThan(-1);
  expect(treatment.limit?.ceilingDbtp).toBeLessThan(-1);
  expect(report.readings.truePeakDbtp).toBeLessThanOrEqual(-1);
  expect(Math.abs((report.readings.integratedLufs ?? Number.NaN) + 14)).toBeLessThanOrEqual(0.1);
  // As FFmpeg reads its own decoding of it, at 192 kHz.
  expect(ffmpegTruePeakDbtp(path)).toBeLessThanOrEqual(-0.95);
});

test('what is to be written as it is set is written once, wherever it lands', async () => {
  const { passes, treatment } = await write({ kind: 'mp3' }, { spec: STREAMING, treatment: { gainDb: -9 } });
  expect(passes).toHaveLength(1);
  expect(treatment.gainDb).toBe(-9);
});

test('split files are the channels of the interleaved one, dither and all, and are null against it', async () => {
  for (const bitDepth of [16, 24, 32] as const) {
    const whole = await write({ kind: 'wav', bitDepth });
    const split = await write({ kind: 'wav', bitDepth, arrangement: 'split' });
    expect(split.files.map(({ channel }) => channel)).toEqual(['L', 'R']);
    expect(split.audioSha256).toBe(whole.audioSha256);
    const together = split.files.flatMap(({ temporaryPath }) => decodedByFfmpeg(temporaryPath, 1));
    expect(firstDifference(together, decodedByFfmpeg(whole.path, 2))).toBeUndefined();
    expect(split.report.readings.integratedLufs).toBe(whole.report.readings.integratedLufs);
    expect(existsSync(split.path)).toBe(false);
  }
  const surrounded = await write({ kind: 'wav', arrangement: 'split' }, {}, 'surround.wav');
  expect(surrounded.files.map(({ channel }) => channel)).toEqual(['L', 'R', 'C', 'LFE', 'Ls', 'Rs']);
});

test('a mono file is the mean of both channels', async () => {
  const { path } = await write({ kind: 'wav', bitDepth: 32, arrangement: 'mono' }, { treatment: { gainDb: 0 } });
  const [mono] = decodedByFfmpeg(path, 1) as [Float32Array];
  const worst = mono.reduce(
    (most, x, i) => Math.max(most, Math.abs(x - 0.5 * ((left[i] ?? Number.NaN) + (right[i] ?? Number.NaN)))),
    0,
  );
  expect(worst).toBeLessThan(1e-6);
});

test('six channels keep their places in FLAC, and their sound in AAC, AC-3, Opus and Vorbis', async () => {
  const [flac, ...coded] = await Promise.all(
    (['flac', 'm4a', 'ac3', 'opus', 'ogg'] as FileKind[]).map((kind) =>
      write(
        { kind, bitRateKbps: kind === 'flac' ? null : kind === 'opus' ? 450 : kind === 'ogg' ? 500 : 448 },
        {},
        'surround.wav',
      ),
    ),
  );
  expect(flac?.report.format.channels).toBe(6);
  const wav = await write({ kind: 'wav' }, {}, 'surround.wav');
  expect(flac?.audioSha256).toBe(wav.audioSha256);
  const level = (samples: Float32Array) => 10 * Math.log10(samples.reduce((sum, x) => sum + x * x, 0) / samples.length);
  const levels = decodedByFfmpeg(wav.path, 6).map(level);
  for (const own of coded) {
    decodedByFfmpeg(own.path, 6).forEach((samples, channel) => {
      // What is for low frequencies only is coded so.
      if (channel === 3) return;
      expect(Math.abs(level(samples) - (levels[channel] ?? Number.NaN))).toBeLessThan(0.5);
    });
  }
});

test('bext states what was measured, in hundredths, where EBU Tech 3285 has it (from memory)', async () => {
  const { path, report } = await write({ kind: 'wav' });
  const bytes = readFileSync(path);
  const bext = bytes.indexOf('bext') + 8;
  expect(bytes.readUInt16LE(bext + 346)).toBe(2);
  const { integratedLufs, loudnessRangeLu, truePeakDbtp, maxMomentaryLufs, maxShortTermLufs } = report.readings;
  const stated = [412, 414, 416, 418, 420].map((offset) => bytes.readInt16LE(bext + offset));
  expect(stated).toEqual(
    [integratedLufs, loudnessRangeLu, truePeakDbtp, maxMomentaryLufs, maxShortTermLufs].map((level) =>
      Math.round(100 * (level ?? Number.NaN)),
    ),
  );
});

test('silence stays digital silence under dither, unless it is asked for there too', async () => {
  const silent = new Float32Array(MATERIAL_RATE_HZ);
  writeFileSync(
    at('gap.wav'),
    wavOf(
      [left.slice(0, MATERIAL_RATE_HZ), right.slice(0, MATERIAL_RATE_HZ)].map((x) =>
        Float32Array.from([...x, ...silent]),
      ),
    ),
  );
  // From its very first frame: what comes before is long known to end there.
  const tail = async (isDitherSilenced: boolean) => {
    const { path } = await write({ kind: 'wav', bitDepth: 16, isDitherSilenced }, {}, 'gap.wav');
    return decodedByFfmpeg(path, 2).some((samples) => samples.slice(-MATERIAL_RATE_HZ).some((x) => x !== 0));
  };
  expect(await tail(true)).toBe(false);
  expect(await tail(false)).toBe(true);
});

test('what would not fit is not written', async () => {
  const thrown = await write({ kind: 'wav' }, { treatment: { gainDb: 12 } }).catch((error: unknown) => error);
  expect(thrown).toBeInstanceOf(AppError);
  expect((thrown as AppError).code).toBe('would-clip');
  expect(existsSync(at(`out${count}.part`))).toBe(false);
});

test('cancelled while it is coded, it leaves nothing', async () => {
  const ending = new AbortController();
  const { signal } = ending;
  // Behind the first third it is rendered.
  const onProgress = ({ fraction }: { fraction: number }) => fraction > 0.3 && ending.abort();
  await expect(write({ kind: 'opus' }, { signal, onProgress })).rejects.toMatchObject({ code: 'cancelled' });
  expect(readdirSync(folder).filter((name) => name.startsWith(`out${count}.`))).toEqual([]);
});
