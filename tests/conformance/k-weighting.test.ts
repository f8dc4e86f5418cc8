/**
 * The kernels' K-weighting against its own transfer function: a sine's energy must be |H|² at its frequency. At 48 kHz the
 * coefficients are those of the tables of ITU-R BS.1770-5, Annex 1 (from memory), typed in here once more.
 */
import { type Biquad, kWeighting } from '@/core/loudness/k-weighting';
import { kernelSegments } from '../fixtures/kernel';

const { sin, cos, log10, PI, abs } = Math;

const TABLE: { shelf: Biquad; highPass: Biquad } = {
  shelf: {
    b0: 1.53512485958697,
    b1: -2.69169618940638,
    b2: 1.19839281085285,
    a1: -1.69065929318241,
    a2: 0.73248077421585,
  },
  highPass: { b0: 1, b1: -2, b2: 1, a1: -1.99004745483398, a2: 0.99007225036621 },
};

function powerGain({ b0, b1, b2, a1, a2 }: Biquad, frequencyHz: number, rate: number): number {
  const w = (2 * PI * frequencyHz) / rate;
  const squared = (c0: number, c1: number, c2: number) => {
    const real = c0 + c1 * cos(w) + c2 * cos(2 * w);
    const imaginary = c1 * sin(w) + c2 * sin(2 * w);
    return real ** 2 + imaginary ** 2;
  };
  return squared(b0, b1, b2) / squared(1, a1, a2);
}

/** Gain in dB that the kernels give to a sine, over the whole periods of its last second. */
function measuredGainDb(frequencyHz: number, rate: number): number {
  const samples = Float32Array.from({ length: 3 * rate }, (_, n) => 0.5 * sin((2 * PI * frequencyHz * n) / rate));
  const [segment] = kernelSegments([samples], rate);
  const energy = (segment?.channels[0]?.ticks ?? new Float64Array()).slice(200, 300).reduce((a, b) => a + b, 0);
  return 10 * log10(energy / rate / (0.5 ** 2 / 2));
}

test('the coefficients at 48 kHz are those of the tables', () => {
  const derived = kWeighting(48_000);
  for (const stage of ['shelf', 'highPass'] as const) {
    for (const key of ['b0', 'b1', 'b2', 'a1', 'a2'] as const) {
      expect(abs(derived[stage][key] - TABLE[stage][key])).toBeLessThan(1e-8);
    }
  }
});

test.each([20, 38, 100, 500, 1000, 2000, 4000, 10_000, 19_000])('at 48 kHz, %i Hz passes as the tables say', (hz) => {
  const expected = 10 * log10(powerGain(TABLE.shelf, hz, 48_000) * powerGain(TABLE.highPass, hz, 48_000));
  expect(abs(measuredGainDb(hz, 48_000) - expected)).toBeLessThan(0.001);
});

/** To 0.45 of each rate: what the standard asks of other rates is "the same frequency response", and it names no bound. */
test.each([
  [8_000, [38, 100, 500, 1000, 1700, 2400, 3000, 3600]],
  [11_025, [500, 1100, 1700, 2500, 4000, 4960]],
  [16_000, [500, 1260, 1700, 2600, 5000, 7200]],
  [22_050, [1270, 2600, 9920]],
  [32_000, [1290, 2700, 14_400]],
  [44_100, [20, 300, 1320, 2700, 10_000, 19_000]],
  [96_000, [20, 300, 1320, 2700, 10_000, 21_000]],
  [192_000, [50, 300, 1320, 2700, 10_000, 21_000]],
  [384_000, [300, 1320, 2700, 10_000]],
])('at %i Hz the kernels pass sines as the tables say of 48 kHz, within 0.02 dB', (rate, frequenciesHz) => {
  for (const hz of frequenciesHz) {
    const expected = 10 * log10(powerGain(TABLE.shelf, hz, 48_000) * powerGain(TABLE.highPass, hz, 48_000));
    expect([hz, abs(measuredGainDb(hz, rate) - expected) < 0.02]).toEqual([hz, true]);
  }
});
