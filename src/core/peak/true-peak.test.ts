import fc from 'fast-check';
import { seededRandom } from '@/cli/demo/random';
import { createInterpolator, interpolatedAt, SEARCH } from './interpolator';
import { TruePeakMeter } from './true-peak';

const { sin, max, PI } = Math;
const RATE = 48_000;

function search(samples: Float32Array, options: { prune: boolean; pieceFrames?: number } = { prune: true }) {
  const pieceFrames = options.pieceFrames ?? 4096;
  const meter = new TruePeakMeter(RATE, pieceFrames, options);
  for (let start = 0; start < samples.length; start += pieceFrames) {
    const piece = samples.subarray(start, start + pieceFrames);
    meter.process(piece, piece.length);
  }
  meter.finish(samples.length);
  return { peaks: [...meter.binPeaks.view()], frames: [...meter.binFrames.view()] };
}

/** A sine under a long raised-cosine envelope, so that its ends do not ring. */
function fadedSine(frequency: number, phase: number, frames = 9600): Float32Array {
  return Float32Array.from({ length: frames }, (_, n) => {
    const envelope = sin((PI * n) / (frames - 1)) ** 2;
    return 0.5 * envelope * sin(2 * PI * frequency * (n - frames / 2) + phase);
  });
}

test('the interpolator’s phases bound what they can do', () => {
  const { l1Norm, curvatureNorm } = createInterpolator(SEARCH);
  expect(l1Norm).toBeGreaterThan(1.5);
  expect(l1Norm).toBeLessThan(4);
  // A measured prototype of 32 taps had 0.44.
  expect(curvatureNorm).toBeCloseTo(0.44, 1);
});

test.each([
  ['noise', (random: () => number) => random() - 0.5],
  ['rare clicks', (random: () => number) => (random() < 0.001 ? 1 : 0.001 * random())],
  ['full scale alternating', (_: () => number, n: number) => (n % 2 === 0 ? 1 : -1)],
  ['denormal', (random: () => number) => random() * 1e-40],
  ['a loud sine', (_: () => number, n: number) => sin(n * 0.7)],
  ['low then high', (random: () => number, n: number) => (n < 5000 ? 0.01 : 0.9) * (random() - 0.5)],
])('pruning finds exactly what searching everywhere finds: %s', (_, make) => {
  const random = seededRandom(7);
  const samples = Float32Array.from({ length: 14_407 }, (__, n) => make(random, n));
  expect(search(samples, { prune: true })).toEqual(search(samples, { prune: false }));
});

test('pieces of any size give the same', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 3000 }), fc.integer({ min: 1, max: 12_000 }), (pieceFrames, frames) => {
      const random = seededRandom(frames);
      const samples = Float32Array.from({ length: frames }, () => random() - 0.5);
      expect(search(samples, { prune: true, pieceFrames })).toEqual(search(samples));
    }),
    { numRuns: 30 },
  );
});

test('sines from 20 Hz to 0.45 fs read within ±0.01 dB of their peak at any phase', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 20 / RATE, max: 0.45, noNaN: true }),
      fc.double({ min: 0, max: 2 * PI, noNaN: true }),
      (frequency, phase) => {
        const samples = fadedSine(frequency, phase, frequency < 0.01 ? 96_000 : 9600);
        // The analytic peak: the same function, sought densely around the middle of the envelope.
        let analytic = 0;
        const frames = samples.length;
        const span = Math.min(frames / 4, 2 / frequency);
        for (let t = frames / 2 - span; t < frames / 2 + span; t += span / 4000) {
          const envelope = sin((PI * t) / (frames - 1)) ** 2;
          analytic = max(analytic, Math.abs(0.5 * envelope * sin(2 * PI * frequency * (t - frames / 2) + phase)));
        }
        const error = 20 * Math.log10(max(...search(samples).peaks) / analytic);
        expect(Math.abs(error)).toBeLessThanOrEqual(0.01);
      },
    ),
    { numRuns: 60 },
  );
});

test('what rings beyond the ends of the programme counts, and its frame stays inside', () => {
  // An fs/2-like start at full scale: the greatest value of the reconstruction lies between and beyond the samples.
  const samples = Float32Array.from([1, 1, -1, -1, 1, 1]);
  const { peaks, frames } = search(samples);
  expect(peaks).toHaveLength(1);
  expect(peaks[0]).toBeGreaterThan(1.2);
  expect(frames[0]).toBeGreaterThanOrEqual(0);
  expect(frames[0]).toBeLessThan(samples.length);
});

test('there is one bin for every 100 ms begun', () => {
  expect(search(new Float32Array(4800)).peaks).toHaveLength(1);
  expect(search(new Float32Array(4801)).peaks).toHaveLength(2);
  expect(search(new Float32Array(1)).peaks).toEqual([0]);
});

test('a value between two samples is that of the sine they are of, at every phase', () => {
  const interpolator = createInterpolator({ taps: 32, kaiserBeta: 8 });
  const sine = (n: number) => 0.8 * Math.sin(2 * Math.PI * 0.11 * n + 0.3);
  const samples = Float32Array.from({ length: 128 }, (_, n) => sine(n));
  for (let phase = 1; phase < 16; phase++) {
    expect(interpolatedAt(interpolator, samples, 64, phase)).toBeCloseTo(sine(64 + phase / 16), 3);
  }
  // Where the samples end there is silence.
  expect(Number.isFinite(interpolatedAt(interpolator, samples, 127, 8))).toBe(true);
});
