import { seededRandom } from '@/cli/demo/random';
import { channelLayout } from '@/core/loudness/channel-layout';
import { ProgrammeMeter } from '@/core/loudness/programme';
import { type ChannelSegment, SEGMENT_SECONDS, type Segment } from '@/core/loudness/segment';
import { ClippedRunList } from '@/core/peak/clipped-runs';
import { type SampleEncoding, sampleBytes } from '@/core/units/sample-encoding';
import { unpack } from '@/formats/samples';
import { kernelSegments, planarReader } from '../../tests/fixtures/kernel';
import { measureByReference, referenceSegment } from '../../tests/fixtures/signals';
import { type Bits, interleave } from '../../tests/fixtures/wav';
import { type FrameReader, MeterKernel } from './meter-kernel';

const { abs, log10, max, min, sin } = Math;

const MATERIAL: Record<string, (random: () => number, n: number) => number> = {
  noise: (random) => random() - 0.5,
  tone: (_, n) => 0.7 * sin(n * 0.061),
  'high tone': (_, n) => 0.9 * sin(n * 2.7 + 0.3),
  'sub-sonic': (_, n) => 0.9 * sin(n * 0.0004),
  'very quiet': (random) => 1e-6 * (random() - 0.5),
  'quiet over an offset': (random) => 0.25 + 1e-4 * (random() - 0.5),
  denormal: (random) => 1e-40 * random(),
  'full scale alternating': (_, n) => (n % 2 === 0 ? 1 : -1),
  'clipped sine': (_, n) => max(-1, min(1, 1.6 * sin(n * 0.02))),
  'beyond full scale': (random, n) => 3 * sin(n / 40) + random(),
  'rare clicks': (random) => (random() < 0.0007 ? 0.8 : 0.0001 * (random() - 0.5)),
  silence: () => 0,
};

const make = (name: string, frames: number, seed: number) => {
  const random = seededRandom(seed);
  const sample = MATERIAL[name] as (random: () => number, n: number) => number;
  return Float32Array.from({ length: frames }, (_, n) => sample(random, n));
};

/** A channel's segments put end to end. */
function joined(segments: readonly Segment[], channel: number) {
  const parts = segments.map(({ channels }) => channels[channel] as ChannelSegment);
  const clipped = new ClippedRunList();
  segments.forEach(({ startFrame, frames }, i) => {
    clipped.addSegment({ ...(parts[i] as ChannelSegment), startFrame, endFrame: startFrame + frames });
  });
  const loudest = parts.reduce((best, part) => (part.samplePeak > best.samplePeak ? part : best));
  return {
    ticks: parts.flatMap(({ ticks }) => [...ticks]),
    tickSquares: parts.flatMap(({ tickSquares }) => [...tickSquares]),
    restSquares: parts.reduce((sum, { restSquares }) => sum + restSquares, 0),
    sum: parts.reduce((total, { sum }) => total + sum, 0),
    exact: {
      samplePeak: loudest.samplePeak,
      samplePeakFrame: loudest.samplePeakFrame,
      truePeaks: parts.flatMap(({ truePeaks }) => [...truePeaks]),
      truePeakFrames: parts.flatMap(({ truePeakFrames }) => [...truePeakFrames]),
      clippedRunCount: clipped.count,
      clippedRuns: clipped.runs,
    },
  };
}

/** Below −200 dBFS there is nothing but the rounding of f64 in either. */
const LEAST_MEAN_SQUARE = 1e-20;

/** Greatest difference in dB between mean squares. */
function worstDb(actual: readonly number[], expected: readonly number[]): number {
  expect(actual).toHaveLength(expected.length);
  return expected.reduce((worst, b, i) => {
    const a = actual[i] ?? Number.NaN;
    return max(a, b) < LEAST_MEAN_SQUARE ? worst : max(worst, abs(10 * log10(a / b)));
  }, 0);
}

/** Mean squares of every complete 100 ms, from sums over 10 ms. */
function ofBins(ticks: readonly number[], rate: number): number[] {
  return Array.from({ length: Math.floor(ticks.length / 10) }, (_, bin) => {
    const sum = ticks.slice(10 * bin, 10 * bin + 10).reduce((a, b) => a + b, 0);
    return sum / (rate / 10);
  });
}

/** Every 100 ms of the kernel against the reference: peaks and runs to the bit, energies (in f32) to 1e-5 dB. */
function expectParity(channels: Float32Array[], rate: number, pieceFrames: number) {
  const frames = channels[0]?.length ?? 0;
  const reference = referenceSegment(channels, rate, 4096);
  const segments = kernelSegments(channels, rate, { pieceFrames });
  channels.forEach((_, c) => {
    const expected = joined([reference], c);
    const actual = joined(segments, c);
    expect(worstDb(ofBins(actual.ticks, rate), ofBins(expected.ticks, rate))).toBeLessThanOrEqual(1e-5);
    expect(worstDb(ofBins(actual.tickSquares, rate), ofBins(expected.tickSquares, rate))).toBeLessThanOrEqual(1e-5);
    expect(abs(actual.restSquares - expected.restSquares)).toBeLessThanOrEqual(2e-6 * expected.restSquares + 1e-20);
    expect(abs(actual.sum - expected.sum) / frames).toBeLessThanOrEqual(1e-7 * expected.exact.samplePeak);
    expect(actual.exact).toEqual(expected.exact);
    const waveform = segments.map(({ channels }) => channels[c]?.waveform);
    if (segments.length === 1) expect(waveform[0]).toEqual(reference.channels[c]?.waveform);
  });
}

describe.each(Object.keys(MATERIAL))('%s', (name) => {
  test('mono, 48 kHz, an odd length', () => {
    expectParity([make(name, 30_011, 1)], 48_000, 4096);
  });
  test('stereo, 44.1 kHz, in small pieces', () => {
    expectParity([make(name, 40_001, 1), make(name, 40_001, 2)], 44_100, 1024);
  });
  test('stereo over several segments at 8 kHz', () => {
    const frames = 2.4 * SEGMENT_SECONDS * 8000 + 3;
    expectParity([make(name, frames, 1), make(name, frames, 2)], 8000, 4096);
  });
  test('three channels at 96 kHz', () => {
    expectParity(
      [1, 2, 3].map((seed) => make(name, 50_003, seed)),
      96_000,
      4096,
    );
  });
});

test.each([8_000, 11_025, 88_200, 192_000, 384_000])('at %i Hz, five channels', (rate) => {
  const frames = Math.round(rate * 0.73) + 5;
  expectParity(
    ['noise', 'tone', 'clipped sine', 'sub-sonic', 'very quiet'].map((name, i) => make(name, frames, i)),
    rate,
    8192,
  );
});

describe.each(['sub-sonic', 'quiet over an offset', 'rare clicks'])('%s, which f32 is not good enough for', (name) => {
  test.each([
    [1, 48_000],
    [2, 44_100],
    [3, 96_000],
  ])('of %i channels at %i Hz is weighed in f64, to 1e-9 dB', (count, rate) => {
    const channels = Array.from({ length: count }, (_, seed) => make(name, 1.3 * rate + 7, seed + 1));
    const reference = referenceSegment(channels, rate, 4096);
    const segments = kernelSegments(channels, rate);
    channels.forEach((_, c) => {
      const [actual, expected] = [joined(segments, c), joined([reference], c)];
      expect(worstDb(ofBins(actual.ticks, rate), ofBins(expected.ticks, rate))).toBeLessThanOrEqual(1e-9);
    });
  });
});

test('24 channels', () => {
  expectParity(
    Array.from({ length: 24 }, (_, i) => make(Object.keys(MATERIAL)[i % 12] as string, 9_999, i)),
    48_000,
    2048,
  );
});

test.each([1, 15, 16, 17, 31, 32, 33, 255, 256, 257, 4800, 4801])('a programme of %i frames', (frames) => {
  expectParity([make('noise', frames, 3), make('full scale alternating', frames, 4)], 48_000, 512);
});

test('runs that segments cut in two, and one that fills a whole segment, are found whole', () => {
  const rate = 8000;
  const edge = SEGMENT_SECONDS * rate;
  const samples = make('noise', 4 * edge, 9);
  samples.fill(1, edge - 2, edge + 3);
  samples.fill(-1, 2 * edge - 500, 3 * edge + 700);
  expectParity([samples], rate, 4096);
  const { clippedRuns } = joined(kernelSegments([samples], rate), 0).exact;
  expect(clippedRuns).toEqual([
    { startFrame: edge - 2, frames: 5 },
    { startFrame: 2 * edge - 500, frames: edge + 1200 },
  ]);
});

describe.each([1, 2, 3])('%i channels unpacked', (count) => {
  test.each([
    ...(['u8', 's8', 's16', 's24', 's32', 'f32', 'f64'] as const).flatMap((type) => [
      [type, false] as const,
      [type, true] as const,
    ]),
  ])('from %s (big-endian: %s) to the bit, what is not finite to silence', (type, isBigEndian) => {
    const frames = 7777;
    const encoding = { type, isBigEndian };
    const bytes = encoded(encoding, frames * count);
    const planar = Array.from({ length: count }, () => new Float32Array(frames));
    const nonFinite = unpack(bytes, frames, encoding, planar);
    const stride = sampleBytes(encoding) * count;
    const kernel = new MeterKernel({ sampleRateHz: 48_000, channels: count, encoding, pieceFrames: 1024 });
    const read: FrameReader = (target, startFrame, wanted) => {
      target.set(bytes.subarray(startFrame * stride, (startFrame + wanted) * stride));
      return wanted;
    };
    const [segment] = kernel.measure(read, [{ startFrame: 0, frames }], frames);
    const [expected] = kernelSegments(planar, 48_000, { pieceFrames: 1024 });
    expect(segment).toEqual({ ...expected, nonFiniteSamples: nonFinite });
    expect(nonFinite).toBe(type.startsWith('f') ? 3 : 0);
  });
});

/** Noise in an encoding, with three samples that are not finite where it can hold them. */
function encoded({ type, isBigEndian }: SampleEncoding, samples: number): Uint8Array {
  const random = seededRandom(samples);
  const bits = Number(type.slice(1)) as Bits;
  const noise = Float64Array.from({ length: samples }, () => 2 * random() - 1);
  if (type.startsWith('f')) {
    noise.set([Number.NaN, Number.POSITIVE_INFINITY], 400);
    noise[2001] = Number.NEGATIVE_INFINITY;
  }
  const bytes = interleave([noise], bits, type.startsWith('f'), isBigEndian);
  return type === 's8' ? bytes.map((byte) => byte ^ 0x80) : bytes;
}

test('no result depends on the size of the pieces, or on what is measured side by side', () => {
  const frames = 3.3 * SEGMENT_SECONDS * 8000;
  const channels = [make('noise', frames, 5), make('clipped sine', frames, 6)];
  const whole = kernelSegments(channels, 8000);
  for (const pieceFrames of [64, 1024, 32_768]) {
    for (const atOnce of [1, 2]) expect(kernelSegments(channels, 8000, { pieceFrames, atOnce })).toEqual(whole);
  }
});

test('where the reader runs out of frames, a segment ends there, whatever is measured beside it', () => {
  const rate = 8000;
  const part = SEGMENT_SECONDS * rate;
  const channels = [make('noise', 1.6 * part, 7), make('tone', 1.6 * part, 8)];
  const expected = kernelSegments(channels, rate, { pieceFrames: 1024 });
  const kernel = new MeterKernel({
    sampleRateHz: rate,
    channels: 2,
    encoding: { type: 'f32', isBigEndian: false },
    pieceFrames: 1024,
  });
  const parts = [0, 1].map((i) => ({ startFrame: i * part, frames: part }));
  expect(kernel.measure(planarReader(channels), parts, 3 * part)).toEqual(expected);
});

test('integrated loudness and its range equal the reference to 1e-6 LU', () => {
  const rate = 8000;
  const random = seededRandom(4);
  const swelling = Float32Array.from({ length: 60 * rate }, (_, n) => (0.01 + 0.3 * sin(n / 90_000) ** 2) * random());
  const meter = new ProgrammeMeter({ sampleRateHz: rate, layout: channelLayout(2) });
  for (const segment of kernelSegments([swelling, swelling], rate)) meter.add(segment);
  const { readings } = meter.finish();
  const reference = measureByReference([swelling, swelling], rate).readings;
  for (const key of ['integratedLufs', 'loudnessRangeLu', 'maxShortTermLufs', 'maxMomentaryLufs'] as const) {
    expect(abs((readings[key] ?? Number.NaN) - (reference[key] ?? Number.NaN))).toBeLessThanOrEqual(1e-6);
  }
  expect(readings.truePeakDbtp).toBe(reference.truePeakDbtp);
});
