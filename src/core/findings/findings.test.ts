import { seededRandom } from '@/cli/demo/random';
import { measure, tone } from '../../../tests/fixtures/signals';
import { findings } from './findings';
import type { SourceFacts } from './source-facts';

const RATE = 48_000;

function find(samples: Float32Array | Float32Array[], facts: Partial<SourceFacts> = {}) {
  const channels = Array.isArray(samples) ? samples : [samples];
  return findings(measure(channels, RATE), {
    sampleRateHz: RATE,
    frames: channels[0]?.length ?? 0,
    sampleFormat: 'integer',
    missingFrames: 0,
    sizeUnknown: false,
    nonFiniteSamples: 0,
    codec: 'PCM',
    bitDepth: 24,
    bitRateBps: null,
    track: null,
    decodeErrors: 0,
    ...facts,
  });
}
const codes = (...args: Parameters<typeof find>) => find(...args).map(({ code }) => code);
const sine = (levelDbfs: number, seconds = 1) => faded(tone([{ seconds, levelDbfs }], RATE, 997));

/** With an end that dies away. */
function faded(samples: Float32Array): Float32Array {
  const frames = 0.4 * RATE;
  return samples.map((x, n) => x * Math.min(1, (samples.length - n) / frames) ** 3);
}

test('a clean programme has no findings', () => {
  expect(codes(sine(-12))).toEqual([]);
});

test('silence, too short, and too quiet are told apart', () => {
  expect(codes(new Float32Array(RATE))).toEqual(['silent']);
  expect(codes(sine(-12, 0.3))).toEqual(['too-short']);
  expect(find(sine(-90))[0]).toMatchObject({ code: 'silent', message: expect.stringContaining('−70 LUFS') });
});

test('a file that was only normalised is told from one that was clipped (common practice, no source)', () => {
  expect(codes(sine(0))).toEqual(['normalised-to-full-scale']);
  expect(codes(sine(6).map((x) => Math.max(-1, Math.min(1, x))))).toEqual(['clipped-runs']);
});

test('float beyond full scale is whole', () => {
  expect(codes(sine(6), { sampleFormat: 'float' })).toEqual(['beyond-full-scale']);
});

test('what is missing is stated in time, worst first', () => {
  const [first, second, third] = find(sine(-12), { missingFrames: RATE / 2, nonFiniteSamples: 1, sizeUnknown: true });
  expect(first).toMatchObject({
    code: 'non-finite-samples',
    severity: 'breach',
    message: expect.stringMatching(/^1 sample is/),
  });
  expect(second?.message).toContain('promises 0:01.500, the file holds 0:01.000: the last 0:00.500 are missing');
  expect(third).toMatchObject({ code: 'size-unknown', severity: 'advice' });
});

test('what coding has cost, which track it is and what the decoder met are told', () => {
  const lossy = { codec: 'MP3', bitDepth: null, bitRateBps: 128_000 };
  const [damage, loss, track] = find(sine(-12), { ...lossy, decodeErrors: 2, track: { number: 1, of: 3 } });
  expect(damage).toMatchObject({
    code: 'decode-errors',
    severity: 'breach',
    message: expect.stringMatching(/complained 2 times/),
  });
  expect(loss).toMatchObject({ code: 'lossy-source', message: expect.stringContaining('MP3 at 128 kb/s') });
  expect(track).toMatchObject({ code: 'several-tracks', message: expect.stringContaining('3 sound tracks') });
  expect(codes(sine(-12), { codec: 'FLAC' })).toEqual([]);
});

/** Each finding on material that has it and on material that nearly does. */
const noise = (seed: number, level = 0.2) => {
  const random = seededRandom(seed);
  return faded(Float32Array.from({ length: 2 * RATE }, () => level * (2 * random() - 1)));
};
const joined = (...parts: Float32Array[]) => Float32Array.from(parts.flatMap((part) => [...part]));
const silence = (seconds: number) => new Float32Array(Math.round(seconds * RATE));
const times = (samples: Float32Array, gain: number) => samples.map((x) => gain * x);
const shifted = (samples: Float32Array, offset: number) => samples.map((x) => x + offset);
const late = (samples: Float32Array, frames: number) => samples.map((_, n) => samples[n - frames] ?? 0);
/** With 10 ms that are missing. */
const holed = (samples: Float32Array) => samples.map((x, n) => (n >= 30_000 && n < 30_480 ? 0 : x));
const dithered = (samples: Float32Array, seed: number) => {
  const random = seededRandom(seed);
  return samples.map((x) => x + (random() + random() - 1) * 2 ** -15);
};
const voices = [1, 2, 3, 4, 5].map((seed) => noise(seed));
const other = noise(9);

describe.each<[string, Float32Array[][], Float32Array[][]]>([
  [
    'silent-channel',
    [...voices.slice(0, 4).map((a) => [a, silence(2)]), [voices[0] as Float32Array, other, silence(2)]],
    // However quiet, something is there: −90 dBFS, or a single step of 24 bits.
    [
      ...voices.slice(0, 3).map((a) => [a, times(other, 1e-4)]),
      [other, times(other, 1e-5)],
      [other, silence(2).map((_, n) => (n === 700 ? 2 ** -23 : 0))],
    ],
  ],
  [
    'same-channels',
    // To the bit, or each with its own dither of 16 bits.
    voices.map((a, i) => (i < 3 ? [a, a.slice()] : [dithered(a, 1), dithered(a, 2)])),
    // A gain of 0.01 dB, a frame late, a hole, upside down, another voice.
    [
      [other, times(other, 1.001)],
      [other, late(other, 1)],
      [other, holed(other)],
      [other, times(other, -1)],
      [other, voices[0] as Float32Array],
    ],
  ],
  [
    'inverted-polarity',
    voices.map((a, i) => (i < 3 ? [a, times(a, -1)] : [dithered(a, 1), dithered(times(a, -1), 2)])),
    [
      [other, times(other, -1.001)],
      [other, late(times(other, -1), 1)],
      [other, holed(times(other, -1))],
      [other, other.slice()],
      [other, times(voices[0] as Float32Array, -1)],
    ],
  ],
  [
    'dc-offset',
    [0.0035, -0.004, 0.01, -0.05, 0.3].map((offset) => [shifted(other, offset)]),
    [0, 0.001, -0.002, 0.0025, -0.0027].map((offset) => [shifted(other, offset)]),
  ],
  [
    'silence-ahead',
    [1.05, 1.3, 2, 5, 11].map((seconds) => [joined(silence(seconds), other)]),
    [0, 0.2, 0.5, 0.8, 0.95].map((seconds) => [joined(silence(seconds), other)]),
  ],
  [
    'silence-behind',
    [5.2, 6, 7.3, 9, 12].map((seconds) => [joined(other, silence(seconds))]),
    [0, 0.5, 2, 3.5, 4.7].map((seconds) => [joined(other, silence(seconds))]),
  ],
  [
    'ends-sounding',
    [0.5, 0.9, 1.2, 1.55, 1.59].map((seconds) => [other.subarray(0, seconds * RATE)]),
    [
      [other],
      [joined(other.subarray(0, RATE), silence(0.15))],
      [joined(other.subarray(0, RATE), times(other.subarray(0, 0.3 * RATE), 0.05))],
      [other.subarray(0, 1.92 * RATE)],
      [times(other, 0.01)],
    ],
  ],
])('%s', (code, positives, nearMisses) => {
  test.each(positives.map((channels, i) => [i + 1, channels] as const))('found on material %i', (_i, channels) => {
    expect(codes([...channels])).toContain(code);
  });
  test.each(nearMisses.map((channels, i) => [i + 1, channels] as const))('not on near-miss %i', (_i, channels) => {
    expect(codes([...channels])).not.toContain(code);
  });
});
