/** A whole read from what is kept of its programmes, against the meter's reading of the samples that were really joined. */
import fc from 'fast-check';
import { seededRandom } from '@/cli/demo/random';
import { measure } from '../../../tests/fixtures/signals';
import { fadeGain } from '../treatment/steps/fade';
import { dbToAmplitude } from '../units/decibel';
import { readJoined } from './joined';
import { playOrder } from './order';

const { abs, sin } = Math;
const RATE = 8000;

/** Noise that swells and falls, so that gates and ranges have something to do. */
function swelling(frames: number, seed: number): Float32Array {
  const random = seededRandom(seed);
  return Float32Array.from(
    { length: frames },
    (_, n) => (0.005 + 0.4 * sin(n / 21_000 + seed) ** 4) * (2 * random() - 1),
  );
}

/** Joins samples, each with its gain, by a plain second way: every overlap fades at equal power. */
function joined(programmes: readonly Float32Array[], gapFrames: readonly number[], gainsDb: readonly number[]) {
  const { starts, end } = playOrder(
    programmes.map(({ length }) => length),
    gapFrames,
  );
  const whole = new Float32Array(end);
  programmes.forEach((samples, i) => {
    const overlap = (at: number) => (at < 0 || at >= programmes.length - 1 ? 0 : Math.max(0, -(gapFrames[at] ?? 0)));
    const gain = dbToAmplitude(gainsDb[i] ?? 0);
    samples.forEach((x, n) => {
      const fadeIn = overlap(i - 1) > 0 ? fadeGain('equal-power', n / overlap(i - 1)) : 1;
      const fadeOut = overlap(i) > 0 ? fadeGain('equal-power', (samples.length - 1 - n) / overlap(i)) : 1;
      const at = (starts[i] as number) + n;
      whole[at] = (whole[at] as number) + gain * fadeIn * fadeOut * x;
    });
  });
  return whole;
}

function seriesOf(samples: Float32Array) {
  const { series, readings } = measure([samples, samples], RATE);
  return { weightedPower: series.weightedPower, truePeakDbtp: readings.truePeakDbtp };
}

function compare(programmes: readonly Float32Array[], gapFrames: readonly number[], gainsDb: readonly number[]) {
  const whole = joined(programmes, gapFrames, gainsDb);
  const { readings: direct, series } = measure([whole, whole], RATE);
  const read = readJoined(
    programmes.map((samples, i) => ({
      ...seriesOf(samples),
      sampleRateHz: RATE,
      frames: samples.length,
      gainDb: gainsDb[i] ?? 0,
      gapSeconds: (gapFrames[i] ?? 0) / RATE,
    })),
  );
  return { direct, read, weightedPower: series.weightedPower };
}

/**
 * The loudness range by EBU Tech 3342, a plain second time, as far as it hangs on single values: the least and the most it is with
 * its gate 0.1 LU aside and its percentiles one point aside. Between two levels far apart that is more than 2 LU.
 */
function rangesNearby(weightedPower: ArrayLike<number>) {
  const level = (power: number) => -0.691 + 10 * Math.log10(power);
  const mean = (powers: readonly number[]) => powers.reduce((sum, power) => sum + power, 0) / powers.length;
  const bins = Array.from(weightedPower);
  const shortTerm = bins
    .slice(29)
    .map((_, i) => mean(bins.slice(i, i + 30)))
    .filter((power) => level(power) >= -70);
  const ranges = [19.9, 20, 20.1].flatMap((gate) => {
    const levels = shortTerm
      .map(level)
      .filter((lufs) => lufs >= level(mean(shortTerm)) - gate)
      .sort((a, b) => a - b);
    const at = (part: number) => levels[Math.round((levels.length - 1) * part)] ?? Number.NaN;
    return [0.09, 0.1, 0.11].flatMap((low) => [0.94, 0.95, 0.96].map((high) => at(high) - at(low)));
  });
  return { least: Math.min(...ranges), most: Math.max(...ranges) };
}

test('programmes in any order, each with its gain, read as they do put end to end', () => {
  const programmes = [swelling(20 * RATE, 5), swelling(12 * RATE, 6), swelling(31 * RATE, 7)];
  for (const order of [
    [0, 1, 2],
    [2, 0, 1],
    [1, 2, 0],
  ]) {
    const { direct, read } = compare(
      order.map((i) => programmes[i] as Float32Array),
      [0, 0, 0],
      order.map((i) => [-3, 2.5, 0][i] as number),
    );
    expect(abs((read.integratedLufs ?? Number.NaN) - (direct.integratedLufs ?? Number.NaN))).toBeLessThan(0.002);
    expect(abs((read.range?.rangeLu ?? Number.NaN) - (direct.loudnessRangeLu ?? Number.NaN))).toBeLessThan(0.01);
    expect(read.truePeakDbtp).toBeCloseTo(direct.truePeakDbtp ?? Number.NaN, 3);
    expect(read.durationSeconds).toBe(63);
  }
});

test('whatever the lengths, gaps, overlaps and gains of short programmes: within 0.05 LU of the joined samples', () => {
  const member = fc.record({
    frames: fc.integer({ min: 15 * RATE, max: 40 * RATE }),
    gap: fc.integer({ min: -2 * RATE, max: 3 * RATE }),
    gainDb: fc.double({ min: -9, max: 6, noNaN: true }),
    seed: fc.integer({ min: 1, max: 1000 }),
  });
  fc.assert(
    fc.property(fc.array(member, { minLength: 2, maxLength: 5 }), (members) => {
      const { direct, read, weightedPower } = compare(
        members.map(({ frames, seed }) => swelling(frames, seed)),
        members.map(({ gap }) => gap),
        members.map(({ gainDb }) => gainDb),
      );
      expect(abs((read.integratedLufs ?? Number.NaN) - (direct.integratedLufs ?? Number.NaN))).toBeLessThan(0.05);
      const { least, most } = rangesNearby(weightedPower);
      expect(read.range?.rangeLu).toBeGreaterThan(least - 0.3);
      expect(read.range?.rangeLu).toBeLessThan(most + 0.3);
      expect(abs((read.maxShortTermLufs ?? Number.NaN) - (direct.maxShortTermLufs ?? Number.NaN))).toBeLessThan(0.1);
    }),
    { numRuns: 20 },
  );
});

test('each is told by how much it is louder than the whole, and where it begins', () => {
  const [soft, loud] = [0.1, 1].map((amplitude) => swelling(20 * RATE, 3).map((x) => amplitude * x)) as [
    Float32Array,
    Float32Array,
  ];
  const { read } = compare([soft, loud, soft], [2 * RATE, -RATE, 0], []);
  expect(read.tracks.map(({ startSeconds }) => startSeconds)).toEqual([0, 22, 41]);
  expect(read.durationSeconds).toBe(61);
  expect(read.loudest).toBe(1);
  expect(read.tracks[1]?.fromWholeLu).toBeGreaterThan(0);
  expect((read.tracks[1]?.integratedLufs ?? 0) - (read.tracks[0]?.integratedLufs ?? 0)).toBeCloseTo(20, 2);
});

test('silence has no loudness to be far from', () => {
  const silence = new Float32Array(5 * RATE);
  const { read } = compare([silence, silence], [RATE, 0], []);
  expect(read).toMatchObject({ integratedLufs: null, loudest: null, truePeakDbtp: null, durationSeconds: 11 });
  expect(read.tracks.map(({ fromWholeLu }) => fromWholeLu)).toEqual([null, null]);
});
