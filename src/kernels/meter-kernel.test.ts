import { seededRandom } from '@/cli/demo/random';
import { type CreateEngine, createReferenceEngine } from '@/core/loudness/meter-engine';
import { unpack } from '@/formats/wav/samples';
import { interleave } from '../../tests/fixtures/wav';
import { MeterKernel } from './meter-kernel';

const { sin } = Math;
const createKernel: CreateEngine = (options) => new MeterKernel(options);

function run(create: CreateEngine, channels: Float32Array[], sampleRateHz: number, pieceFrames: number) {
  const engine = create({ sampleRateHz, channels: channels.length, maxFrames: pieceFrames, waveform: true });
  const ticks = channels.map(() => [] as number[]);
  const collect = () => {
    for (let c = 0; c < channels.length; c++) ticks[c]?.push(...engine.ticks(c).subarray(0, engine.tickCount));
  };
  const frames = channels[0]?.length ?? 0;
  for (let start = 0; start < frames; start += pieceFrames) {
    const end = Math.min(frames, start + pieceFrames);
    engine.process(
      channels.map((channel) => channel.subarray(start, end)),
      end - start,
    );
    collect();
  }
  engine.finish();
  collect();
  return { ticks, results: channels.map((_, c) => engine.result(c)) };
}

const MATERIAL: Record<string, (random: () => number, n: number) => number> = {
  noise: (random) => random() - 0.5,
  tone: (_, n) => 0.7 * sin(n * 0.061),
  'high tone': (_, n) => 0.9 * sin(n * 2.7 + 0.3),
  'sub-sonic': (_, n) => 0.9 * sin(n * 0.0004),
  'very quiet': (random) => 1e-6 * (random() - 0.5),
  denormal: (random) => 1e-40 * random(),
  'full scale alternating': (_, n) => (n % 2 === 0 ? 1 : -1),
  'clipped sine': (_, n) => Math.max(-1, Math.min(1, 1.6 * sin(n * 0.02))),
  'beyond full scale': (random, n) => 3 * sin(n / 40) + random(),
  'rare clicks': (random) => (random() < 0.0007 ? 0.8 : 0.0001 * (random() - 0.5)),
  silence: () => 0,
};

const make = (name: string, frames: number, seed: number) => {
  const random = seededRandom(seed);
  const sample = MATERIAL[name] as (random: () => number, n: number) => number;
  return Float32Array.from({ length: frames }, (_, n) => sample(random, n));
};

/** Every tick and bin of the kernel against the reference: peaks to the bit, energies to 1e-9 dB. */
function expectParity(channels: Float32Array[], rate: number, pieceFrames: number) {
  const reference = run(createReferenceEngine, channels, rate, 4096);
  const kernel = run(createKernel, channels, rate, pieceFrames);
  const near = (actual: ArrayLike<number>, expected: ArrayLike<number>) => {
    expect(actual).toHaveLength(expected.length);
    let worst = 0;
    for (let i = 0; i < expected.length; i++) {
      const [a, b] = [actual[i] as number, expected[i] as number];
      if (a !== b && Math.max(a, b) > 1e-30) worst = Math.max(worst, Math.abs(10 * Math.log10(a / b)));
    }
    expect(worst).toBeLessThanOrEqual(1e-9);
  };
  channels.forEach((_, c) => {
    const expected = reference.results[c];
    const actual = kernel.results[c];
    if (!expected || !actual) throw new Error('a channel is missing');
    near(kernel.ticks[c] as number[], reference.ticks[c] as number[]);
    near(actual.binSumsOfSquares, expected.binSumsOfSquares);
    near([actual.sumOfSquares], [expected.sumOfSquares]);
    expect(Math.abs(actual.sum - expected.sum)).toBeLessThanOrEqual(1e-9 * (1 + Math.abs(expected.sum)));
    const { binSumsOfSquares: _a, sumOfSquares: _b, sum: _c, ...exact } = expected;
    expect(actual).toMatchObject(exact);
  });
}

describe.each(Object.keys(MATERIAL))('%s', (name) => {
  test('mono, 48 kHz, an odd length', () => {
    expectParity([make(name, 30_011, 1)], 48_000, 4096);
  });
  test('stereo, 44.1 kHz, in pieces of no round size', () => {
    expectParity([make(name, 40_001, 1), make(name, 40_001, 2)], 44_100, 1001);
  });
});

test.each([8_000, 11_025, 88_200, 96_000, 192_000, 384_000])('at %i Hz, three channels', (rate) => {
  const frames = Math.round(rate * 0.73) + 5;
  expectParity(
    ['noise', 'tone', 'clipped sine'].map((name, i) => make(name, frames, i)),
    rate,
    8192,
  );
});

test.each([1, 15, 16, 17, 31, 32, 33, 255, 256, 257, 4800, 4801])('a programme of %i frames', (frames) => {
  expectParity([make('noise', frames, 3), make('full scale alternating', frames, 4)], 48_000, 512);
});

test('the result does not depend on how the frames were cut', () => {
  const channels = [make('noise', 20_003, 5), make('clipped sine', 20_003, 6)];
  const whole = run(createKernel, channels, 44_100, 32_768);
  for (const pieceFrames of [1, 7, 16, 1000]) expect(run(createKernel, channels, 44_100, pieceFrames)).toEqual(whole);
});

describe.each([1, 2, 3])('%i channels', (count) => {
  test.each([
    [16, false],
    [24, false],
    [32, false],
    [32, true],
  ] as const)('unpack %i bit (float: %s) to the bit', (bits, float) => {
    const random = seededRandom(bits);
    const channels = Array.from({ length: count }, () => Float64Array.from({ length: 777 }, () => 2 * random() - 1));
    const data = interleave(channels, bits, float);
    if (float) for (const at of [0, 400, 2000]) data.writeFloatLE(at === 0 ? Number.NaN : Number.NEGATIVE_INFINITY, at);
    const expected = channels.map(() => new Float32Array(777));
    const nonFinite = unpack(data, 777, bits, float ? 'float' : 'integer', expected);
    const options = { sampleRateHz: 48_000, channels: count, maxFrames: 777, waveform: false };
    const kernel = new MeterKernel(options, (bits / 8) * count);
    kernel.bytes.set(data);
    const unpacked = kernel.unpack(777, bits, float ? 'float' : 'integer');
    expect(unpacked.planar).toEqual(expected);
    expect(unpacked.nonFinite).toBe(nonFinite);
    expect(nonFinite).toBe(float ? 3 : 0);
  });
});
