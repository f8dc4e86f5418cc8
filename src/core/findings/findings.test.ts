import { measure, tone } from '../../../tests/fixtures/signals';
import { findings, type SourceFacts } from './findings';

const RATE = 48_000;

function find(samples: Float32Array, facts: Partial<SourceFacts> = {}) {
  const { readings } = measure([samples], RATE);
  return findings(readings, {
    sampleRateHz: RATE,
    frames: samples.length,
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
const sine = (levelDbfs: number, seconds = 1) => tone([{ seconds, levelDbfs }], RATE, 997);

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
    message: expect.stringMatching(/2 damaged/),
  });
  expect(loss).toMatchObject({ code: 'lossy-source', message: expect.stringContaining('MP3 at 128 kb/s') });
  expect(track).toMatchObject({ code: 'several-tracks', message: expect.stringContaining('3 sound tracks') });
  expect(codes(sine(-12), { codec: 'FLAC' })).toEqual([]);
});
