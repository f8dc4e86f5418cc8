import { seededRandom } from '@/cli/demo/random';
import { inspected, measure, tone } from '../../../tests/fixtures/signals';
import { findings } from './findings';
import { rateFindings } from './job-findings';
import type { SourceFacts } from './source-facts';

const RATE = 48_000;
/** Looking a global up is slow inside the test runner's sandbox, and this runs once a frame. */
const { sin } = Math;

async function find(samples: Float32Array | Float32Array[], facts: Partial<SourceFacts> = {}) {
  const channels = Array.isArray(samples) ? samples : [samples];
  const { sampleRateHz = RATE } = facts;
  const measurement = measure(channels, sampleRateHz);
  return findings(measurement, await inspected(channels, sampleRateHz, measurement), {
    sampleRateHz,
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
    usedBits: 24,
    treatedBefore: null,
    ...facts,
  });
}
const codes = async (...args: Parameters<typeof find>) => (await find(...args)).map(({ code }) => code);
const sine = (levelDbfs: number, seconds = 1) => faded(tone([{ seconds, levelDbfs }], RATE, 997));

/** With an end that dies away. */
function faded(samples: Float32Array): Float32Array {
  const frames = 0.4 * RATE;
  return samples.map((x, n) => x * Math.min(1, (samples.length - n) / frames) ** 3);
}

test('a clean programme has no findings', async () => {
  expect(await codes(sine(-12))).toEqual([]);
});

test('silence, too short, and too quiet are told apart', async () => {
  expect(await codes(new Float32Array(RATE))).toEqual(['silent']);
  expect(await codes(sine(-12, 0.3))).toEqual(['too-short']);
  expect((await find(sine(-90)))[0]).toMatchObject({ code: 'silent', message: expect.stringContaining('−70 LUFS') });
});

test('a file that was only normalised is told from one that was clipped (common practice, no source)', async () => {
  expect(await codes(sine(0))).toEqual(['normalised-to-full-scale']);
  expect(await codes(sine(6).map((x) => Math.max(-1, Math.min(1, x))))).toEqual(['clipped-runs']);
});

test('float beyond full scale is whole', async () => {
  expect(await codes(sine(6), { sampleFormat: 'float' })).toEqual(['beyond-full-scale']);
});

test('what is missing is stated in time, worst first', async () => {
  const [first, second, third] = await find(sine(-12), {
    missingFrames: RATE / 2,
    nonFiniteSamples: 1,
    sizeUnknown: true,
  });
  expect(first).toMatchObject({
    code: 'non-finite-samples',
    severity: 'breach',
    message: expect.stringMatching(/^1 sample is/),
  });
  expect(second?.message).toContain('promises 0:01.500, the file holds 0:01.000: the last 0:00.500 are missing');
  expect(third).toMatchObject({ code: 'size-unknown', severity: 'advice' });
});

test('what coding has cost, which track it is and what the decoder met are told', async () => {
  const lossy = { codec: 'MP3', bitDepth: null, bitRateBps: 128_000 };
  const [damage, loss, track] = await find(sine(-12), { ...lossy, decodeErrors: 2, track: { number: 1, of: 3 } });
  expect(damage).toMatchObject({
    code: 'decode-errors',
    severity: 'breach',
    message: expect.stringMatching(/2 decoding errors/),
  });
  expect(loss).toMatchObject({ code: 'lossy-source', message: expect.stringContaining('MP3 at 128 kb/s') });
  expect(track).toMatchObject({ code: 'several-tracks', message: expect.stringContaining('3 sound tracks') });
  expect(await codes(sine(-12), { codec: 'FLAC' })).toEqual([]);
});

test('what was treated here before is told', async () => {
  const [found] = await find(sine(-12), { treatedBefore: 'gain +4.6 dB' });
  expect(found).toMatchObject({
    code: 'treated-before',
    message: expect.stringContaining('already treated once (gain +4.6 dB)'),
  });
});

test('clipped runs are told by channel, the longest with its place', async () => {
  const clean = times(other, 0.5);
  const cut = clean.map((x, n) => (n >= 24_000 && n < 24_006 ? 1 : n >= 48_000 && n < 48_004 ? -1 : x));
  const [found] = await find([cut, clean]);
  expect(found?.message).toMatch(/^2 clipped runs \(L 2\), the longest 6 samples at 0:00\.500/);
  expect(found?.places).toEqual([
    { startFrame: 24_000, frames: 6, channel: 'L' },
    { startFrame: 48_000, frames: 4, channel: 'L' },
  ]);
});

test.each([
  [24, 16, true],
  [24, 8, true],
  [24, 15, true],
  [16, 8, true],
  [32, 24, true],
  [24, 24, false],
  [24, 17, false],
  [24, 20, false],
  [16, 16, false],
  [16, 13, false],
])('%i bits of which %i are used: told is %s', async (bitDepth, usedBits, isTold) => {
  expect((await codes(sine(-12), { bitDepth, usedBits })).includes('unused-bits')).toBe(isTold);
});

describe('what the file itself tells', () => {
  test.each<[string, Partial<SourceFacts>[], Partial<SourceFacts>[]]>([
    ['non-finite-samples', [1, 2, 7, 1000, 1e9].map((nonFiniteSamples) => ({ nonFiniteSamples })), [{}]],
    ['truncated', [1, 48, 4800, 48_000, 1e9].map((missingFrames) => ({ missingFrames })), [{ sizeUnknown: true }]],
    ['decode-errors', [1, 2, 3, 40, 5000].map((decodeErrors) => ({ decodeErrors })), [{ codec: 'FLAC' }]],
    ['size-unknown', [8, 16, 20, 24, 32].map((bitDepth) => ({ sizeUnknown: true, bitDepth })), [{ missingFrames: 9 }]],
    [
      'lossy-source',
      ['MP3', 'AAC', 'Opus', 'Vorbis', 'AC-3'].map((codec) => ({ codec, bitDepth: null, bitRateBps: 320_000 })),
      ['FLAC', 'ALAC', 'WavPack', 'PCM'].map((codec) => ({ codec })),
    ],
    [
      'several-tracks',
      [1, 2, 3, 4, 5].map((number) => ({ track: { number, of: 5 } })),
      [{ track: null }, { codec: 'AAC', bitDepth: null }],
    ],
    [
      'treated-before',
      ['gain +0.1 dB', 'gain −4.6 dB', 'gain +1.0 dB, then gain −2.0 dB', 'gain 0.0 dB', 'x'].map((treatedBefore) => ({
        treatedBefore,
      })),
      [{ treatedBefore: null }],
    ],
  ])('%s', async (code, positives, nearMisses) => {
    for (const facts of positives) expect(await codes(sine(-12), facts)).toContain(code);
    for (const facts of nearMisses) expect(await codes(sine(-12), facts)).not.toContain(code);
  });

  test.each([0.1, 0.5, 1, 6, 20])('float samples %f dB over full scale are beyond it', async (overDb) => {
    expect(await codes(sine(overDb), { sampleFormat: 'float' })).toContain('beyond-full-scale');
  });
  test.each([0, -0.001, -0.1, -6, -20])('float samples at %f dBFS are not', async (levelDbfs) => {
    expect(await codes(sine(levelDbfs), { sampleFormat: 'float' })).not.toContain('beyond-full-scale');
  });
});

describe('upsampled', () => {
  const at96 = { sampleRateHz: 96_000 };
  test.each([19_500, 20_000, 21_000, 22_000, 23_500])('found where all ends at %i Hz', async (hz) => {
    expect(await codes(lowPassed(hz, 96_000), at96)).toContain('upsampled');
  });
  test.each<[string, () => Float32Array]>([
    ['ends at 27 kHz', () => lowPassed(27_000, 96_000)],
    ['goes to the top', () => times(other, 1)],
    ['softens from 12 kHz on', () => softened(other, 12_000)],
    ['softens into the noise of a converter', () => softened(other, 12_000).map((x, n) => x + noiseAt(-100, n))],
    ['is nearly silent everywhere', () => times(other, 1e-6)],
  ])('not where it %s', async (_name, make) => {
    expect(await codes(make(), at96)).not.toContain('upsampled');
  });
  test('not at a rate that has no such band', async () => {
    expect(await codes(lowPassed(20_000))).not.toContain('upsampled');
  });
});

describe('a sample rate beside the others of its job', () => {
  test.each([
    [96_000, [48_000, 48_000, 96_000]],
    [44_100, [48_000, 48_000, 48_000, 44_100]],
    [48_000, [44_100, 44_100, 48_000]],
    [32_000, [48_000, 48_000, 48_000, 96_000, 32_000]],
    [88_200, [44_100, 44_100, 44_100, 88_200, 88_200]],
  ])('%i among %j is told', (rate, rates) => {
    expect(rateFindings(rate, rates).map(({ code }) => code)).toEqual(['other-rate']);
  });
  test.each([
    [48_000, [48_000, 48_000, 96_000]],
    [96_000, [96_000]],
    [96_000, [48_000, 96_000]],
    [44_100, [48_000, 48_000, 44_100, 96_000]],
    [48_000, [48_000, 44_100, 48_000, 44_100]],
  ])('%i among %j is not', (rate, rates) => {
    expect(rateFindings(rate, rates)).toEqual([]);
  });
});

/** Each finding on material that has it and on material that nearly does. */
const noise = (seed: number, level = 0.2) => {
  const random = seededRandom(seed);
  return faded(Float32Array.from({ length: 2 * RATE }, () => level * (2 * random() - 1)));
};
const joined = (...parts: Float32Array[]) => Float32Array.from(parts.flatMap((part) => [...part]));
const peakOf = (samples: Float32Array) => samples.reduce((peak, x) => Math.max(peak, Math.abs(x)), 0);
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
/** With a beginning that comes up. */
const rising = (samples: Float32Array) => samples.map((x, n) => x * Math.min(1, n / 4800) ** 2);
/** Another voice that has so much in common with a first one. */
const correlated = (samples: Float32Array, correlation: number) => {
  const apart = noise(77);
  return samples.map((x, n) => 0.5 * (correlation * x + Math.sqrt(1 - correlation ** 2) * (apart[n] as number)));
};
/** A sample of white noise at an RMS level, the same at each frame. */
const noiseTable = (() => {
  const random = seededRandom(5);
  return Float32Array.from({ length: 3 * RATE }, () => (random() - 0.5) * Math.sqrt(12));
})();
const noiseAt = (levelDbfs: number, n: number) =>
  (noiseTable[n % noiseTable.length] as number) * 10 ** (levelDbfs / 20);
/** Bursts of a voice with pauses of 0.8 s, and something beneath all of it. */
const spoken = (beneath: (n: number) => number) =>
  faded(
    Float32Array.from({ length: 6 * RATE }, (_, n) => {
      const isSpeaking = (n / RATE) % 1.6 < 0.8;
      return (isSpeaking ? 0.3 * sin(n / 25) * sin(n / 3000) : 0) + beneath(n);
    }),
  );
/** White noise through a filter that is flat to an edge and falls by 90 dB within a few hundred hertz. */
const lowPassed = (edgeHz: number, sampleRateHz = RATE) => {
  const half = Math.round((256 * sampleRateHz) / RATE);
  const taps = Float64Array.from({ length: 2 * half + 1 }, (_, i) => {
    const x = (2 * edgeHz * (i - half)) / sampleRateHz;
    const sinc = x === 0 ? 1 : sin(Math.PI * x) / (Math.PI * x);
    const phase = (Math.PI * i) / half;
    const blackman = 0.42 - 0.5 * Math.cos(phase) + 0.08 * Math.cos(2 * phase);
    return ((2 * edgeHz) / sampleRateHz) * sinc * blackman;
  });
  const white = noise(31);
  return white.map((_, n) => {
    let sum = 0;
    for (let i = 0; i < taps.length; i++) sum += (taps[i] as number) * (white[n + i - half] ?? 0);
    return sum;
  });
};
/** Four poles in a row. */
const softened = (samples: Float32Array, hz: number) => {
  const a = 1 - Math.exp((-2 * Math.PI * hz) / RATE);
  const poles = [0, 0, 0, 0];
  return samples.map((x) => {
    let value = x;
    poles.forEach((pole, i) => {
      value = pole + a * (value - pole);
      poles[i] = value;
    });
    return value;
  });
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
  [
    'works-against',
    [-0.35, -0.5, -0.7, -0.9, -0.97].map((correlation) => [other, correlated(other, correlation)]),
    [-0.25, -0.1, 0, 0.6, 0.95].map((correlation) => [other, correlated(other, correlation)]),
  ],
  [
    'out-of-balance',
    [0.69, 0.5, 0.3, 1.45, 4].map((gain) => [times(other, 0.2), times(voices[0] as Float32Array, 0.2 * gain)]),
    [0.75, 0.9, 1, 1.2, 1.36].map((gain) => [times(other, 0.2), times(voices[0] as Float32Array, 0.2 * gain)]),
  ],
  [
    'click-at-edge',
    [
      [sine(-12).subarray(12)],
      [sine(-6).map((x, n) => (n === 30 ? x + 0.3 : x))],
      [shifted(other, 0.02)],
      [rising(other), rising(other).map((x, n) => (n === 400 ? 0.9 : x))],
      [joined(rising(other), Float32Array.of(0.05))],
    ],
    [
      [sine(-12)],
      [rising(other)],
      [joined(silence(0.5), rising(other))],
      [sine(-6).map((x, n) => (n === 30 ? x + 0.0005 : x))],
      [shifted(rising(other), 0.005)],
    ],
  ],
  [
    'noise-floor',
    [-57, -55, -50, -45, -40].map((level) => [spoken((n) => noiseAt(level, n))]),
    [
      [spoken((n) => noiseAt(-63, n))],
      [spoken((n) => noiseAt(-80, n))],
      [spoken(() => 0)],
      // A hum of partials is a tone, and noise through the whole programme is what it is made of.
      [spoken((n) => 0.003 * (sin(n / 40) + sin(n / 20) + sin(n / 13.3)))],
      [other],
    ],
  ],
  [
    'band-edge',
    [11_000, 14_000, 16_000, 18_000, 20_000].map((hz) => [lowPassed(hz)]),
    [
      [other],
      [lowPassed(21_000)],
      [lowPassed(9_000)],
      // As microphones and desks do it: 24 dB an octave.
      [softened(other, 12_000)],
      // Few partials end somewhere too.
      [faded(tone([{ seconds: 2, levelDbfs: -12 }], RATE, 15_000))],
    ],
  ],
  [
    'clipped-runs',
    [
      ...[1, 2, 6, 12].map((overDb) => [times(sine(0), 10 ** (overDb / 20)).map((x) => Math.max(-1, Math.min(1, x)))]),
      // Three samples in one channel are enough.
      [times(other, 0.5), times(other, 0.5).map((x, n) => (n >= 30_000 && n < 30_003 ? -1 : x))],
    ],
    [
      [sine(0)],
      [sine(-0.001)],
      [times(other, 0.5).map((x, n) => (n >= 30_000 && n < 30_002 ? -1 : x))],
      [times(other, 0.5).map((x, n) => (n >= 30_000 && n < 30_030 ? 0.99 : x))],
      // A quantised slow wave stands at full scale for a while, and comes and goes in single steps.
      [faded(tone([{ seconds: 1, levelDbfs: 0 }], RATE, 30).map((x) => Math.round(x * 32_767) / 32_768))],
    ],
  ],
  [
    'normalised-to-full-scale',
    [[sine(0)], [times(other, 1 / peakOf(other))], [times(sine(0), -1)], [sine(-0.004)], [sine(0), sine(-20)]],
    [[sine(-0.01)], [sine(-0.1)], [sine(-1)], [times(sine(0), 2).map((x) => Math.max(-1, Math.min(1, x)))], [other]],
  ],
  [
    'silent',
    [[silence(1)], [silence(0.2)], [silence(1), silence(1)], [sine(-75)], [sine(-90), silence(1)]],
    [[sine(-60)], [sine(-66)], [sine(-60), silence(1)], [joined(silence(1), sine(-60))], [sine(-12, 0.2)]],
  ],
  [
    'too-short',
    [0.01, 0.1, 0.2, 0.3, 0.39].map((seconds) => [tone([{ seconds, levelDbfs: -12 }], RATE, 997)]),
    [0.4, 0.45, 0.5, 1, 2].map((seconds) => [tone([{ seconds, levelDbfs: -12 }], RATE, 997)]),
  ],
])('%s', (code, positives, nearMisses) => {
  test.each(positives.map((channels, i) => [i + 1, channels] as const))(
    'found on material %i',
    async (_i, channels) => {
      expect(await codes([...channels])).toContain(code);
    },
  );
  test.each(nearMisses.map((channels, i) => [i + 1, channels] as const))(
    'not on near-miss %i',
    async (_i, channels) => {
      expect(await codes([...channels])).not.toContain(code);
    },
  );
});
