/**
 * A voice in every channel, every layout in every format: whatever order the source has, each voice comes out of the loudspeaker
 * that it was meant for. Decoded by FFmpeg, and by a decoder of each format's own makers or another hand where there is one.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type DeliveryFormatInput, deliveryFormatSchema, formatProblems } from '@/core/delivery/format';
import type { LayoutId } from '@/core/loudness/channel-layout';
import { specById } from '@/core/spec/catalogue';
import { delivered } from '../fixtures/delivering';
import { ffmpeg, sox } from '../fixtures/ffmpeg';
import { wavOf } from '../fixtures/wav';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-layouts-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** Orders as the trade and the standards have them, written down apart from the code that is tested. */
const LAYOUTS: readonly { id: LayoutId; mask: number; order: string }[] = [
  { id: 'mono', mask: 0x4, order: 'C' },
  { id: 'stereo', mask: 0x3, order: 'L R' },
  { id: 'lcr', mask: 0x7, order: 'L R C' },
  { id: 'quad', mask: 0x33, order: 'L R Ls Rs' },
  { id: '5.0', mask: 0x37, order: 'L R C Ls Rs' },
  { id: '5.1', mask: 0x3f, order: 'L R C LFE Ls Rs' },
  { id: '5.1', mask: 0x60f, order: 'L R C LFE Ls Rs' },
  { id: '5.1-film', mask: 0, order: 'L C R Ls Rs LFE' },
  { id: '5.1-centre-last', mask: 0, order: 'L R Ls Rs C LFE' },
  { id: '6.1', mask: 0x70f, order: 'L R C LFE Cb Lss Rss' },
  { id: '7.1', mask: 0x63f, order: 'L R C LFE Lb Rb Lss Rss' },
  { id: '7.1-film', mask: 0, order: 'L C R Lss Rss Lb Rb LFE' },
  { id: '5.1.4', mask: 0x2d03f, order: 'L R C LFE Ls Rs Ltf Rtf Ltb Rtb' },
  { id: '7.1.4', mask: 0x2d63f, order: 'L R C LFE Lb Rb Lss Rss Ltf Rtf Ltb Rtb' },
];

/** The loudspeakers of a mask's bits (WAVE_FORMAT_EXTENSIBLE, from memory); the only pair of surrounds is Ls and Rs. */
const BITS = 'L R C LFE Lb Rb Lc Rc Cb Lss Rss T Ltf Ctf Rtf Ltb Ctb Rtb'.split(' ');
function rolesOfMask(mask: number): string[] {
  const roles = BITS.filter((_, bit) => mask & (1 << bit));
  const isOnlyPair = !(roles.includes('Lb') && roles.includes('Lss'));
  const own: Record<string, string> = { Lb: 'Ls', Rb: 'Rs', Lss: 'Ls', Rss: 'Rs' };
  // 6.1 has its sides beside one behind.
  return isOnlyPair && !roles.includes('Cb') ? roles.map((role) => own[role] ?? role) : roles;
}

/** A tone of its own for each role, of whole periods in what is looked at; low for the low-frequency channel. */
const ROLES = [...new Set(LAYOUTS.flatMap(({ order }) => order.split(' ')))];
const voiceHz = (role: string) => (role === 'LFE' ? 50 : 300 + 130 * ROLES.indexOf(role));
const RATE = 48_000;
const SECONDS = 1;

const voices = new Map(
  ROLES.map((role) => {
    const { sin, PI } = Math;
    const step = (2 * PI * voiceHz(role)) / RATE;
    return [role, new Float32Array(SECONDS * RATE).map((_, n) => 0.1 * sin(step * n))] as const;
  }),
);

/** Which role's voice a channel holds: the only one that stands clear of all others. */
function roleIn(samples: ArrayLike<number>, roles: readonly string[]): string {
  const powers = roles.map((role) => powerAt(samples, voiceHz(role)));
  const loudest = powers.indexOf(Math.max(...powers));
  const others = powers.filter((_, i) => i !== loudest);
  const isClear =
    (powers[loudest] ?? Number.NaN) > 1e-5 && others.every((power) => power < (powers[loudest] ?? Number.NaN) / 100);
  return isClear ? (roles[loudest] as string) : 'a mixture';
}

/** Goertzel's algorithm over a quarter of a second, behind where coders begin. */
function powerAt(samples: ArrayLike<number>, hz: number): number {
  const { cos, PI } = Math;
  const turn = 2 * cos((2 * PI * hz) / RATE);
  let [one, two] = [0, 0];
  for (let i = RATE / 2; i < (RATE * 3) / 4; i++) [one, two] = [(samples[i] ?? Number.NaN) + turn * one - two, one];
  return (one * one + two * two - turn * one * two) / (RATE / 8) ** 2;
}

/** A WAV of floats or 16 bits, read by hand. */
function readWav(path: string): { mask: number; channels: Float32Array[] } {
  const bytes = readFileSync(path);
  const chunkAt = (id: string) => {
    for (let at = 12; at < bytes.length; at += 8 + bytes.readUInt32LE(at + 4) + (bytes.readUInt32LE(at + 4) % 2)) {
      if (bytes.toString('latin1', at, at + 4) === id) return at + 8;
    }
    throw new Error(`${path} has no ${id}`);
  };
  const format = chunkAt('fmt ');
  const data = chunkAt('data');
  const [tag, count, bits] = [
    bytes.readUInt16LE(format),
    bytes.readUInt16LE(format + 2),
    bytes.readUInt16LE(format + 14),
  ];
  const mask = tag === 0xfffe ? bytes.readUInt32LE(format + 20) : 0;
  const frames = Math.floor((bytes.length - data) / ((count * bits) / 8));
  const view = new DataView(bytes.buffer, bytes.byteOffset + data, frames * count * (bits / 8));
  const sample = {
    16: (at: number) => view.getInt16(2 * at, true) / 2 ** 15,
    24: (at: number) => (view.getUint8(3 * at) + view.getInt16(3 * at + 1, true) * 2 ** 8) / 2 ** 23,
    32: (at: number) => view.getFloat32(4 * at, true),
  }[bits] as (at: number) => number;
  const channels = Array.from({ length: count }, (_, c) =>
    new Float32Array(Math.min(frames, SECONDS * RATE)).map((_zero, i) => sample(i * count + c)),
  );
  return { mask, channels };
}

/** What comes out of which loudspeaker, of a WAV that says so, or by the usual order of so many. */
function heard(path: string, roles: readonly string[], usual: string): string {
  const { mask, channels } = readWav(path);
  const speakers = mask === 0 || channels.length < 3 ? usual.split(' ') : rolesOfMask(mask);
  return speakers.map((speaker, i) => `${speaker}:${roleIn(channels[i] as Float32Array, roles)}`).join(' ');
}

/** The order of Vorbis (Vorbis I, 4.3.9, from memory), for a decoder that hands channels on as they are coded. */
const VORBIS_ORDER: Readonly<Record<number, string>> = {
  1: 'C',
  2: 'L R',
  3: 'L C R',
  4: 'L R Ls Rs',
  5: 'L C R Ls Rs',
  6: 'L C R Ls Rs LFE',
  7: 'L C R Lss Rss Cb LFE',
  8: 'L C R Lss Rss Lb Rb LFE',
};

/** The order in which AAC codes them (ISO/IEC 14496-3, from memory), as its decoder hands on all but 5.1. */
const AAC_ORDER: Readonly<Record<number, string>> = {
  1: 'C',
  2: 'L R',
  3: 'C L R',
  5: 'C L R Ls Rs',
  6: 'L R C LFE Ls Rs',
  8: 'C L R Lss Rss Lb Rb LFE',
};
const DECODER_ORDERS: Partial<Record<string, Readonly<Record<number, string>>>> = { ogg: VORBIS_ORDER, m4a: AAC_ORDER };

const FORMATS: readonly { kind: DeliveryFormatInput['kind']; kbps?: (channels: number) => number; second?: Decoder }[] =
  [
    { kind: 'wav' },
    { kind: 'bw64' },
    { kind: 'aiff' },
    { kind: 'flac', second: (from, to) => execFileSync('flac', ['-s', '-d', '-f', '-o', to, from]) },
    {
      kind: 'm4a',
      kbps: (n) => (n > 2 ? 448 : 192),
      second: (from, to) => execFileSync('faad', ['-q', '-b', '4', '-o', to, from]),
    },
    { kind: 'ac3', kbps: (n) => (n > 2 ? 448 : 192) },
    {
      kind: 'opus',
      kbps: (n) => (n > 2 ? 450 : 128),
      second: (from, to) => execFileSync('opusdec', ['--quiet', from, to]),
    },
    { kind: 'ogg', kbps: () => 256, second: (from, to) => sox(from, '-b', '24', to) },
    {
      kind: 'mp3',
      kbps: () => 192,
      second: (from, to) => execFileSync('mpg123', ['-q', '-e', 's24', '-w', to, from]),
    },
  ];
type Decoder = (from: string, to: string) => unknown;

const CASES = LAYOUTS.flatMap((layout) =>
  FORMATS.map(({ kind }) => [layout.mask === 0x60f ? '5.1 with side surrounds' : layout.id, kind, layout] as const),
);

let cases = 0;
test.each(CASES)('%s as %s', async (_name, kind, { id, mask, order }) => {
  const stem = join(folder, `${cases++}`);
  const roles = order.split(' ');
  writeFileSync(
    `${stem}.source.wav`,
    wavOf(
      roles.map((role) => voices.get(role) as Float32Array),
      { sampleRateHz: RATE, channelMask: mask },
    ),
  );
  const { kbps, second } = FORMATS.find((own) => own.kind === kind) as (typeof FORMATS)[number];
  const format = deliveryFormatSchema.parse({ kind, bitRateKbps: kbps?.(roles.length) ?? null });
  const usual = rolesOfMask(
    LAYOUTS.find((own) => own.mask !== 0 && isSameSet(own.order, order))?.mask ?? Number.NaN,
  ).join(' ');
  const [problem] = formatProblems(format, { channels: roles.length, sampleRateHz: RATE, layout: nameOf(id) });
  if (problem) {
    // What a format can't hold is refused; more than that is not.
    expect(refusedOf(kind, roles.length, id)).toBe(true);
    return;
  }
  expect(refusedOf(kind, roles.length, id)).toBe(false);
  const path = `${stem}.${kind === 'bw64' ? 'wav' : kind}`;
  const done = await delivered(`${stem}.source.wav`, path, {
    format,
    spec: specById('ebu-r128'),
    ...(mask === 0 ? { layoutId: id } : {}),
  });
  const everyOne = usual
    .split(' ')
    .map((role) => `${role}:${role}`)
    .join(' ');
  ffmpeg('-i', path, '-c:a', 'pcm_f32le', `${stem}.ffmpeg.wav`);
  expect(heard(`${stem}.ffmpeg.wav`, roles, usual)).toBe(everyOne);
  if (kind === 'wav') {
    expect(heard(path, roles, usual)).toBe(everyOne);
    if (roles.length > 2) expect(readWav(path).mask).not.toBe(0);
  }
  if (second) {
    second(path, `${stem}.second.wav`);
    const own = DECODER_ORDERS[kind]?.[roles.length] ?? usual;
    const { channels } = readWav(`${stem}.second.wav`);
    const told = own.split(' ').map((speaker, i) => `${speaker}:${roleIn(channels[i] as Float32Array, roles)}`);
    expect(told.sort().join(' ')).toBe(everyOne.split(' ').sort().join(' '));
  }
  // What is read back is weighed by role: surrounds count more, the low-frequency channel not at all.
  const weights: Record<string, number> = { LFE: 0, Ls: 1.41, Rs: 1.41, Lss: 1.41, Rss: 1.41 };
  const power = roles.reduce(
    (sum, role) => sum + (weights[role] ?? 1) * (0.1 ** 2 / 2) * weightingAt(voiceHz(role)),
    0,
  );
  const deviationLu = Math.abs((done.report.readings.integratedLufs ?? Number.NaN) - (-0.691 + 10 * Math.log10(power)));
  // Coding moves tones by some hundredths; a surround in the wrong place moves the whole by several tenths.
  // LAME turns everything down by 0.26 dB at this rate (its own scale, 0.97).
  expect(deviationLu).toBeLessThan(kind === 'mp3' ? 0.3 : kbps ? 0.15 : 0.02);
});

/** Power gain of K-weighting at a frequency, by the filters that ITU-R BS.1770-5 states for 48 kHz (Annex 1, from memory). */
function weightingAt(hz: number): number {
  const stages = [
    { b: [1.53512485958697, -2.69169618940638, 1.19839281085285], a: [1, -1.69065929318241, 0.73248077421585] },
    { b: [1, -2, 1], a: [1, -1.99004745483398, 0.99007225036621] },
  ];
  const w = (2 * Math.PI * hz) / RATE;
  const power = (taps: readonly number[]) => {
    const re = taps.reduce((sum, tap, n) => sum + tap * Math.cos(n * w), 0);
    const im = taps.reduce((sum, tap, n) => sum + tap * Math.sin(n * w), 0);
    return re * re + im * im;
  };
  return stages.reduce((gain, { b, a }) => (gain * power(b)) / power(a), 1);
}

function isSameSet(a: string, b: string): boolean {
  return a.split(' ').sort().join(' ') === b.split(' ').sort().join(' ');
}

function nameOf(id: LayoutId): string {
  const names: Partial<Record<LayoutId, string>> = {
    lcr: 'LCR',
    '5.1-film': '5.1 in film order',
    '5.1-centre-last': '5.1, centre and LFE last',
    '7.1-film': '7.1 in film order',
  };
  return names[id] ?? id;
}

/** More channels than a format holds, what a coder is known to move, and what other decoders do not open. */
function refusedOf(kind: string, channels: number, id: LayoutId): boolean {
  if (kind === 'mp3') return channels > 2;
  if (kind === 'ac3') return channels > 6;
  if (kind === 'opus' && (id === '5.0' || id === '6.1')) return true;
  if (kind === 'm4a' && (id === 'quad' || id === '6.1')) return true;
  return ['flac', 'm4a', 'opus', 'ogg'].includes(kind) && channels > 8;
}
