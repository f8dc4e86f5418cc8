/** The parts of the limiter, each against the plainest search or formula: sliding extremes, envelope, curve, and how it is applied. */
import fc from 'fast-check';
import { seededRandom } from '@/cli/demo/random';
import { music } from '@/cli/demo/synth';
import { judgedTruePeakDbtp } from '../../../tests/fixtures/judge';
import { peaksOf } from '../../../tests/fixtures/limit';
import { made, SECTIONS } from '../../../tests/fixtures/limiter-material';
import { applyReduction } from './apply-reduction';
import { CURVE_BLOCK, curveBlock, curveBlocks } from './gain-curve';
import { ReferenceSearcher, searcherRoom } from './peak-envelope';
import { PeaksInMemory, peaksInDb } from './peaks-in-memory';
import { slidingMax, slidingMin } from './sliding';

const { sin } = Math;

const values = fc.array(fc.double({ min: 0, max: 20, noNaN: true }), { minLength: 1, maxLength: 80 });

test('sliding extremes are those of the plainest search', () => {
  fc.assert(
    fc.property(values, fc.nat(12), fc.nat(12), (list, before, behind) => {
      const array = Float64Array.from(list);
      const plain = (choose: (...all: number[]) => number) =>
        list.map((_, i) =>
          choose(...Array.from({ length: before + behind + 1 }, (_unused, j) => list[i - before + j] ?? 0)),
        );
      expect([...slidingMax(array, before, behind)]).toEqual(plain(Math.max));
      expect([...slidingMin(array, before, behind)].map((x) => x + 0)).toEqual(plain(Math.min));
    }),
  );
});

test('a gain reduction curve is nowhere less than what is asked, at either end of a node, and its greatest is the greatest asked', () => {
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: 0, max: 3, noNaN: true }), { minLength: 1, maxLength: 600 }),
      fc.constantFrom(44_100 / 7, 6000),
      fc.constantFrom(0.5, 1.5, 10),
      fc.constantFrom(null, 10, 200),
      (peaks, nodesPerSecond, lookAheadMs, releaseMs) => {
        const array = peaksInDb(Float32Array.from(peaks));
        const settings = { gainDb: 3, ceilingDbtp: -1, lookAheadMs, releaseMs };
        const [curve] = curveBlock(new PeaksInMemory([array], nodesPerSecond), 0, settings).reductions;
        const asked = Array.from(array, (peak) => Math.max(0, peak + 3 + 1 + 0.03));
        asked.forEach((value, k) => {
          expect(curve?.[k]).toBeGreaterThanOrEqual(value - 1e-5);
          expect(curve?.[k + 1]).toBeGreaterThanOrEqual(value - 1e-5);
        });
        expect(Math.max(...(curve ?? []))).toBeCloseTo(Math.max(...asked), 4);
      },
    ),
    { numRuns: 200 },
  );
});

test.each([null, 300])(
  'blocks of a gain reduction curve, released within %s ms, meet as if it had been made in one',
  (releaseMs) => {
    const random = seededRandom(3);
    const length = 3 * CURVE_BLOCK + 100;
    // Long over, then bursts, with a gap around a block's edge.
    const peaks = Float32Array.from({ length }, (_, k) => {
      const isOver = k < CURVE_BLOCK + 900 || (k > 2 * CURVE_BLOCK - 40 && k % 977 < 60);
      return isOver ? 2 + 6 * random() * Math.abs(sin(k / 300)) : -20;
    });
    const settings = { gainDb: 0, ceilingDbtp: -1, releaseMs };
    const at = (shift: number) => {
      // The same nodes, with other blocks: silence stands ahead of them.
      const shifted = new Float32Array(length + shift).fill(-80);
      shifted.set(peaks, shift);
      const source = new PeaksInMemory([shifted], 6000);
      return Array.from({ length: curveBlocks(source) }, (_, index) => {
        const { reductions } = curveBlock(source, index, settings);
        return Array.from((reductions[0] as Float32Array).subarray(0, -1));
      })
        .flat()
        .slice(shift);
    };
    const [whole, other] = [at(0), at(5000)];
    // Where a programme begins, nothing comes before: there the two are not the same.
    const apart = whole.slice(2000).map((value, k) => Math.abs(value - (other[k + 2000] ?? Number.NaN)));
    const worst = apart.reduce((most, value) => Math.max(most, value), 0);
    expect(whole).toHaveLength(length);
    expect(worst).toBeLessThan(2e-5);
  },
);

test('the envelope does not depend on how frames are cut, and holds what brute force finds', () => {
  // Soft until a half, then loud.
  const source = music(1.2, 44_100, SECTIONS, 9).map((samples) => samples.map((x, n) => (n < 22_050 ? 0.05 * x : x)));
  const searcher = (pieceFrames: number) => new ReferenceSearcher(2, searcherRoom(44_100, pieceFrames));
  const envelopeOf = (floor: number, pieceFrames: number) =>
    peaksOf(source, 44_100, floor, { pieceFrames, searcher: searcher(pieceFrames) })[0] as Float32Array;
  const whole = envelopeOf(0, 60_000);
  const floor = 0.02;
  const high = envelopeOf(floor, 60_000);
  // With a floor, what is above it is the same, and what is not is nothing.
  high.forEach((peak, k) => {
    const exact = whole[k] ?? Number.NaN;
    expect(peak).toBe(exact > floor ? exact : 0);
  });
  expect([high.some((peak) => peak > floor), high.includes(0)]).toEqual([true, true]);
  for (const pieceFrames of [1, 7, 64, 1000, 4096]) {
    expect(envelopeOf(0, pieceFrames)).toEqual(whole);
    expect(envelopeOf(floor, pieceFrames)).toEqual(high);
  }
  expect(20 * Math.log10(Math.max(...whole))).toBeCloseTo(judgedTruePeakDbtp(source), 2);
  expect(whole).toHaveLength(Math.ceil((source[0]?.length ?? 0) / 7));
});

test('applied in pieces of any size, the result is the same', () => {
  const reductions = Float32Array.from({ length: 260 }, (_, k) => Math.max(0, 3 * sin(k / 9)));
  const source = made(0.04, 48_000, (n) => sin(n / 5));
  const settings = { reductions, nodeFrames: 8, gain: 1.25 };
  const whole = source.slice();
  applyReduction([whole], whole.length, 0, settings);
  whole.forEach((x, n) => {
    const place = n / 8;
    const [a, b] = [reductions[Math.floor(place)] ?? Number.NaN, reductions[Math.floor(place) + 1] ?? Number.NaN];
    const exact = (source[n] ?? Number.NaN) * 1.25 * 10 ** (-(a + (place % 1) * (b - a)) / 20);
    expect(Math.abs(x - exact)).toBeLessThan(2e-7);
  });
  for (const piece of [1, 5, 8, 13, 500]) {
    const cut = source.slice();
    for (let from = 0; from < cut.length; from += piece) {
      const part = cut.subarray(from, from + piece);
      applyReduction([part], part.length, from, settings);
    }
    expect(cut).toEqual(whole);
  }
});
