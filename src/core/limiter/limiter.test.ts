import fc from 'fast-check';
import { music } from '@/cli/demo/synth';
import { judgedTruePeakDbtp } from '../../../tests/fixtures/judge';
import { limit, limitedForecast, peaksOf } from '../../../tests/fixtures/limit';
import { made, SECTIONS } from '../../../tests/fixtures/limiter-material';
import { measure } from '../../../tests/fixtures/signals';
import { Limiter } from './limiter';
import { channelGroups } from './link';
import { PeaksInMemory, peaksInDb } from './peaks-in-memory';

const { sin, PI, abs } = Math;
const CEILING = -1;

test('below the ceiling, nothing is touched but by the gain, bit for bit', () => {
  const source = music(2, 48_000, SECTIONS, 7);
  const { channels, limiter } = limit(source, 48_000, { gainDb: 0, ceilingDbtp: 0.5 });
  expect(limiter.figures()).toMatchObject({ greatestDb: 0, shareOfTime: 0, stretches: [] });
  expect(channels).toEqual(source);
});

test('what one has corrected makes the same curve of another with the same peaks', () => {
  const rate = 48_000;
  const source = music(2, rate, SECTIONS, 7);
  const peaks = () =>
    new Limiter(
      new PeaksInMemory(
        peaksOf(source, rate, 0.01).map((own) => peaksInDb(own, 0.01)),
        rate,
      ),
      channelGroups(2, 1),
      rate,
      { gainDb: 12, ceilingDbtp: CEILING },
    );
  const [first, other] = [peaks(), peaks()];
  expect(first.corrections()).toEqual({ raised: [], trimDb: 0 });
  // A node is said to have come out too high until nothing but turning all of it down is left.
  while (first.correct([{ group: 0, node: 700, peak: 1.1 * first.ceiling }]));
  const { raised, trimDb } = first.corrections();
  expect(raised).toHaveLength(1);
  expect(trimDb).toBeGreaterThan(0);
  expect(other.figures()).not.toEqual(first.figures());
  // It goes between threads and into jobs: as data.
  other.restore(JSON.parse(JSON.stringify(first.corrections())));
  expect(other.figures()).toEqual(first.figures());
  const limited = (limiter: Limiter) => {
    const channels = source.map((samples) => samples.slice());
    limiter.apply(channels, channels[0]?.length ?? 0, 0);
    return channels;
  };
  expect(limited(other)).toEqual(limited(first));
});

describe('links', () => {
  const rate = 48_000;
  // Left is loud in the middle, right alone later, and low frequencies at the end.
  const source = [0, 1, 2].map((channel) =>
    made(3, rate, (_, t) => (Math.floor(t) === channel ? 1 : 0.1) * sin(2 * PI * (channel === 2 ? 50 : 500) * t)),
  );
  const gains = (settings: { link: number; lfeChannels?: number[] }) => {
    const { channels } = limit(source, rate, { gainDb: 6, ceilingDbtp: CEILING, ...settings });
    expect(judgedTruePeakDbtp(channels)).toBeLessThanOrEqual(CEILING);
    // In the middle of each second, by how much each channel was turned down: peak against peak, in dB.
    return [0, 1, 2].map((second) =>
      channels.map((samples, channel) => {
        const peak = (of: Float32Array) => {
          const part = of.subarray((second + 0.4) * rate, (second + 0.6) * rate);
          return part.reduce((most, x) => Math.max(most, abs(x)), 0);
        };
        return 6 - 20 * Math.log10(peak(samples) / peak(source[channel] as Float32Array));
      }),
    );
  };
  const near = (list: number[]) => list.map((value) => expect.closeTo(value, 1));

  test('wholly linked, all go down as the one that needs most', () => {
    expect(gains({ link: 1 })).toEqual([near([7, 7, 7]), near([7, 7, 7]), near([7, 7, 7])]);
  });

  test('not linked, each goes down by itself', () => {
    expect(gains({ link: 0 })).toEqual([near([7, 0, 0]), near([0, 7, 0]), near([0, 0, 7])]);
  });

  test('half linked, the others go half the way', () => {
    expect(gains({ link: 0.5 })).toEqual([near([7, 3.5, 3.5]), near([3.5, 7, 3.5]), near([3.5, 3.5, 7])]);
  });

  test('low frequencies apart, they neither go down with the others nor take them along', () => {
    expect(gains({ link: 1, lfeChannels: [2] })).toEqual([near([7, 7, 0]), near([7, 7, 0]), near([0, 0, 7])]);
  });
});

test.each([20, 80, 320])('released within %i ms, a peak is let go of by that time', (releaseMs) => {
  const rate = 48_000;
  // One loud millisecond in a soft tone.
  const source = [made(3, rate, (n, t) => (t > 1 && t < 1.001 ? 1 : 0.2) * sin(n / 6))];
  const { limiter } = limit(source, rate, { gainDb: 6, ceilingDbtp: CEILING, releaseMs });
  const [curve] = limiter.blockAt(0).reductions as [Float32Array];
  const greatest = curve.reduce((most, value) => Math.max(most, value), 0);
  const at = (ms: number) => curve[Math.round((1.0018 + ms / 1000) * 6000)] ?? Number.NaN;
  expect(at(releaseMs) / greatest).toBeCloseTo(Math.exp(-1), 1);
  expect(at(-4)).toBe(0);
});

describe.each([0.5, 3, 10])('looking %d ms ahead', (lookAheadMs) => {
  const rate = 48_000;

  test('it begins that long before a peak, and not sooner', () => {
    const source = [made(3, rate, (n, t) => (t > 1 && t < 1.001 ? 1 : 0.2) * sin(n / 6))];
    const { limiter } = limit(source, rate, { gainDb: 6, ceilingDbtp: CEILING, lookAheadMs });
    const [curve] = limiter.blockAt(0).reductions as [Float32Array];
    const begins = curve.findIndex((value) => value > 0) / 6000;
    // To a node of the curve and to one of each of its three means.
    expect(1 - begins).toBeGreaterThan(lookAheadMs / 1000 - 4 / 6000);
    expect(1 - begins).toBeLessThan(lookAheadMs / 1000 + 4 / 6000);
  });

  test('music stays under the ceiling, and reads what is forecast', () => {
    const source = music(6, rate, SECTIONS, 7);
    const { readings } = measure(source, rate);
    const gainDb = CEILING + 6 - (readings.truePeakDbtp ?? Number.NaN);
    const settings = { gainDb, ceilingDbtp: CEILING, lookAheadMs };
    const { channels } = limit(source, rate, settings);
    expect(judgedTruePeakDbtp(channels)).toBeLessThanOrEqual(CEILING);
    const forecast = limitedForecast(source, rate, { times: settings }).at(settings).readings;
    const limited = measure(channels, rate).readings;
    expect(abs((forecast.integratedLufs ?? Number.NaN) - (limited.integratedLufs ?? Number.NaN))).toBeLessThanOrEqual(
      0.05,
    );
  });
});

test('all channels are turned down together, so that the picture does not move', () => {
  const left = made(1, 48_000, (_, t) => (t > 0.5 && t < 0.6 ? 1 : 0.1) * sin(2 * PI * 440 * t));
  const right = made(1, 48_000, (_, t) => 0.1 * sin(2 * PI * 440 * t));
  const { channels } = limit([left, right], 48_000, { gainDb: 6, ceilingDbtp: CEILING });
  for (let n = 24_100; n < 28_000; n += 97) {
    const ratio = (channels[0]?.[n] ?? 0) / (left[n] ?? Number.NaN);
    expect((channels[1]?.[n] ?? 0) / (right[n] ?? Number.NaN) / ratio).toBeCloseTo(1, 4);
  }
});

/** Power of what a limiter adds to a tone, under the tone, by a fit of the tone and its mean: in dB. */
function distortionDb(samples: Float32Array, hz: number, rate: number): number {
  // Whole periods from the middle, where the limiter has settled.
  const period = rate / hz;
  const from = Math.round(samples.length / 3);
  const length = Math.round(Math.floor(samples.length / 3 / period) * period);
  let s = 0;
  let c = 0;
  for (let n = 0; n < length; n++) {
    s += (samples[from + n] ?? Number.NaN) * sin((2 * PI * n) / period);
    c += (samples[from + n] ?? Number.NaN) * Math.cos((2 * PI * n) / period);
  }
  let rest = 0;
  for (let n = 0; n < length; n++) {
    const fit = (2 * (s * sin((2 * PI * n) / period) + c * Math.cos((2 * PI * n) / period))) / length;
    rest += ((samples[from + n] ?? Number.NaN) - fit) ** 2;
  }
  const tone = (2 * (s * s + c * c)) / length;
  return 10 * Math.log10(rest / tone);
}

test.each([31.25, 50, 100, 250, 500, 1000])('a tone of %f Hz, 6 dB over, is distorted by less than −100 dB', (hz) => {
  const source = [made(3, 48_000, (_, t) => 0.9 * sin(2 * PI * hz * t))];
  const { channels } = limit(source, 48_000, { gainDb: 6, ceilingDbtp: CEILING });
  expect(distortionDb(channels[0] as Float32Array, hz, 48_000)).toBeLessThan(-100);
});

test('60 Hz and 7 kHz 4:1, 6 dB over: the products stand 80 dB below (SMPTE RP 120, from memory)', () => {
  const rate = 48_000;
  const source = [made(3, rate, (_, t) => 0.72 * sin(2 * PI * 60 * t) + 0.18 * sin(2 * PI * 7000 * t))];
  const { channels } = limit(source, rate, { gainDb: 6, ceilingDbtp: CEILING });
  const samples = channels[0] as Float32Array;
  const amplitude = (hz: number) => {
    let s = 0;
    let c = 0;
    // One second holds whole periods of all of them.
    for (let n = 0; n < rate; n++) {
      const x = samples[rate + n] ?? Number.NaN;
      s += x * sin((2 * PI * hz * n) / rate);
      c += x * Math.cos((2 * PI * hz * n) / rate);
    }
    return Math.hypot(s, c);
  };
  const sidebands = [-180, -120, -60, 60, 120, 180].map((offset) => amplitude(7000 + offset));
  const products = 20 * Math.log10(Math.hypot(...sidebands) / amplitude(7000));
  expect(products).toBeLessThan(-80);
});

test('random programmes: never over, never a number that is none, exactly as long', () => {
  fc.assert(
    fc.property(
      fc.array(fc.float({ min: -1, max: 1, noNaN: true }), { minLength: 1, maxLength: 3000 }),
      fc.double({ min: -6, max: 12, noNaN: true }),
      fc.double({ min: -12, max: 0, noNaN: true }),
      (list, gainDb, ceilingDbtp) => {
        const source = [Float32Array.from(list)];
        const { channels } = limit(source, 48_000, { gainDb, ceilingDbtp });
        expect(channels[0]).toHaveLength(list.length);
        expect(channels[0]?.every(Number.isFinite)).toBe(true);
        expect(judgedTruePeakDbtp(channels)).toBeLessThanOrEqual(ceilingDbtp + 0.05);
      },
    ),
    { numRuns: 60 },
  );
});
