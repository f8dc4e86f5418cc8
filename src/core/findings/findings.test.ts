import {
  codes,
  faded,
  find,
  lowPassed,
  noiseAt,
  other,
  RATE,
  sine,
  softened,
  times,
} from '../../../tests/fixtures/finding-material';
import { measure, tone } from '../../../tests/fixtures/signals';
import { FINDINGS, findingsOf } from './findings';
import type { SourceFacts } from './source-facts';

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
    ['tracks-of-objects', [{ hasObjects: true }], [{}, { hasObjects: false }]],
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
  ])('%i among %j is told', async (rate, rates) => {
    expect(
      await codes(faded(tone([{ seconds: 1, levelDbfs: -12 }], rate, 997)), { sampleRateHz: rate }, rates),
    ).toContain('other-rate');
  });
  test.each([
    [48_000, [48_000, 48_000, 96_000]],
    [96_000, [96_000]],
    [96_000, [48_000, 96_000]],
    [44_100, [48_000, 48_000, 44_100, 96_000]],
    [48_000, [48_000, 44_100, 48_000, 44_100]],
  ])('%i among %j is not', async (rate, rates) => {
    expect(
      await codes(faded(tone([{ seconds: 1, levelDbfs: -12 }], rate, 997)), { sampleRateHz: rate }, rates),
    ).not.toContain('other-rate');
  });
});

test('a file that was measured before findings were made anew keeps those that it had', () => {
  const old = { code: 'silent', severity: 'advice' as const, message: 'As it was said then.', places: [] };
  expect(findingsOf({ readings: measure([sine(-12)], RATE).readings, findings: [old] })).toEqual([old]);
});

test('every kind has a code of its own, and says when it is there', () => {
  expect(new Set(FINDINGS.map(({ code }) => code)).size).toBe(FINDINGS.length);
  for (const { criterion } of FINDINGS) expect(criterion).toMatch(/\S+ \S+/);
});
