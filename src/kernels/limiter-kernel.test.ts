import fc from 'fast-check';
import { seededRandom } from '@/cli/demo/random';
import { music } from '@/cli/demo/synth';
import { type FineEnergies, ReferenceWeigher } from '@/core/limiter/fine-energy';
import { addLosses } from '@/core/limiter/forecast';
import { curveBlock, curveStretch } from '@/core/limiter/gain-curve';
import { nodeFrames, ReferenceSearcher, searcherRoom } from '@/core/limiter/peak-envelope';
import { PeaksInMemory } from '@/core/limiter/peaks-in-memory';
import { peaksOf } from '../../tests/fixtures/limit';
import { createKernelCurveMaker, createKernelLoops } from './curve-kernel';
import { KernelWeigher } from './weigher-kernel';

const { sin, abs, max } = Math;

const noise = (frames: number, seed: number, level = 1) => {
  const random = seededRandom(seed);
  return Float32Array.from({ length: frames }, () => level * (2 * random() - 1));
};

/** Random, tonal, extreme and of odd lengths. */
const MATERIAL: [string, number, Float32Array[]][] = [
  ['music', 48_000, music(1.5, 48_000, [{ startSeconds: 0, level: 0.8, drums: 1 }], 4)],
  ['noise in three channels', 44_100, [noise(20_011, 1), noise(20_011, 2, 0.3), noise(20_011, 3, 0.01)]],
  ['a tone near half the rate', 48_000, [Float32Array.from({ length: 9999 }, (_, n) => sin(2.9 * n))]],
  ['full scale, alternating', 96_000, [Float32Array.from({ length: 5001 }, (_, n) => (n % 2 === 0 ? 1 : -1))]],
  ['denormal numbers', 48_000, [noise(4001, 4, 1e-40)]],
  ['far beyond full scale', 48_000, [noise(4001, 5, 900)]],
  ['silence with one click', 44_100, [Float32Array.from({ length: 6007 }, (_, n) => (n === 3001 ? -0.7 : 0))]],
  ['a single sample', 48_000, [Float32Array.of(0.5)]],
  ['fewer than fill a node', 192_000, [noise(5, 6)]],
  ['384 kHz', 384_000, [noise(7013, 7, 0.5)]],
];

describe.each(MATERIAL)('%s', (_name, rate, channels) => {
  const frames = channels[0]?.length ?? 0;
  const greatest = channels.reduce((most, samples) => samples.reduce((m, x) => max(m, abs(x)), most), 0);

  test.each([0, 0.25, 0.9])(
    'peaks over %f of the greatest are those of the reference, however they are cut',
    (part) => {
      const floor = part * greatest;
      const searcher = new ReferenceSearcher(channels.length, searcherRoom(rate, frames));
      const [reference] = peaksOf(channels, rate, floor, { searcher, pieceFrames: frames }) as [Float32Array];
      for (const pieceFrames of [frames, 1000, 77]) {
        const [own] = peaksOf(channels, rate, floor, { pieceFrames }) as [Float32Array];
        expect(own).toHaveLength(reference.length);
        own.forEach((peak, k) => {
          const exact = reference[k] ?? Number.NaN;
          // Only on the floor itself may the two be of two minds.
          if (abs(exact - floor) < 1e-5 * floor) return;
          // Of denormal numbers, a step or two.
          expect(abs(peak - exact)).toBeLessThanOrEqual(2e-6 * exact + 1e-43);
        });
      }
    },
  );

  test('energies are those of the reference, however the frames are cut', () => {
    const width = 4 * nodeFrames(rate);
    const weights = channels.map((_, channel) => [1, 1.41, 0][channel % 3] ?? Number.NaN);
    const sums = (Weigher: typeof ReferenceWeigher | typeof KernelWeigher, pieceFrames: number) => {
      const weigher = new Weigher({ sampleRateHz: rate, weights, width, maxFrames: pieceFrames });
      const all: number[] = [];
      const take = ({ weighted, plain }: FineEnergies) => {
        for (const [k, value] of weighted.entries()) all.push(value, plain[k] ?? Number.NaN);
      };
      for (let from = 0; from < frames; from += pieceFrames) {
        const parts = channels.map((samples) => samples.subarray(from, from + pieceFrames));
        take(weigher.process(parts, parts[0]?.length ?? 0));
      }
      take(weigher.finish());
      return all;
    };
    const reference = sums(ReferenceWeigher, frames);
    expect(reference).toHaveLength(2 * Math.ceil(frames / width));
    for (const pieceFrames of [frames, 501]) {
      sums(KernelWeigher, pieceFrames).forEach((value, i) => {
        const exact = reference[i] ?? Number.NaN;
        // 1e-9 dB, and the rounding to f32 of what is kept.
        expect(abs(value - exact)).toBeLessThanOrEqual(2e-7 * exact + 1e-38);
      });
    }
  });
});

test('a gain reduction curve is that of the reference to a hundred-thousandth of a decibel, at any look-ahead, release and rate', () => {
  const makeCurve = createKernelCurveMaker();
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 3000 }),
      fc.integer({ min: 1, max: 1e6 }),
      fc.constantFrom(1500, 6000, 44_100 / 7, 6250),
      fc.constantFrom(0.5, 1.5, 10),
      fc.constantFrom(null, 10, 120, 1000),
      fc.double({ min: -20, max: 12, noNaN: true }),
      (length, seed, nodesPerSecond, lookAheadMs, releaseMs, gainDb) => {
        const random = seededRandom(seed);
        const peaks = Float32Array.from({ length }, (_, k) => 12 * random() * sin(k / 90) ** 2 - 6);
        const source = new PeaksInMemory([peaks], nodesPerSecond);
        const settings = { gainDb, ceilingDbtp: -1, lookAheadMs, releaseMs };
        const [reference] = curveBlock(source, 0, settings, curveStretch).reductions as [Float32Array];
        const [own] = curveBlock(source, 0, settings, makeCurve).reductions as [Float32Array];
        reference.forEach((exact, k) => {
          expect(abs((own[k] ?? Number.NaN) - exact)).toBeLessThan(2e-5);
        });
      },
    ),
    { numRuns: 60 },
  );
});

test('what nodes lose is what the reference adds up, to the rounding of f32, for spans of any length', () => {
  const { addLosses: own } = createKernelLoops();
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 1, max: 160 }), { minLength: 1, maxLength: 40 }),
      fc.integer({ min: 1, max: 1e6 }),
      (lengths, seed) => {
        const random = seededRandom(seed);
        const edges = Int32Array.of(
          0,
          ...lengths.map((_, i) => lengths.slice(0, i + 1).reduce((sum, n) => sum + n, 0)),
        );
        const count = edges.at(-1) ?? Number.NaN;
        // Nothing at all in many places, and up to 20 dB.
        const reductions = Float32Array.from({ length: count + 1 }, () => max(0, 30 * random() - 10));
        const energies = {
          weighted: Float32Array.from({ length: count }, () => random()),
          plain: Float32Array.from({ length: count }, () => 3 * random()),
        };
        const exact = addLosses(reductions, energies, edges);
        const lost = own(reductions, energies, edges);
        expect(lost).toHaveLength(exact.length);
        exact.forEach((value, span) => {
          // A share is rounded to 2e-7, however little it is: of what a span holds, or of all.
          const [from, to] = span < lengths.length ? [edges[span], edges[span + 1]] : [0, count];
          const held = energies.plain.subarray(from, to).reduce((sum, x) => sum + x, 0) + 3 * ((to ?? 0) - (from ?? 0));
          expect(abs((lost[span] ?? Number.NaN) - value)).toBeLessThanOrEqual(2e-6 * value + 2e-7 * held);
        });
      },
    ),
    { numRuns: 200 },
  );
});
