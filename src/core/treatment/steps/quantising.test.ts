import fc from 'fast-check';
import { seededRandom } from '@/cli/demo/random';
import { DITHERS, type Dither, Quantiser, SILENT_FRAMES, SilenceFinder } from './dither';

const { sin, cos, PI } = Math;

describe('quantising', () => {
  const random = seededRandom(3);
  const signal = Float64Array.from({ length: 200_000 }, (_, n) => 300 * sin(n * 0.0371) + 40 * (random() - 0.5));
  const errors = (dither: Dither, values: Float64Array) => {
    const quantiser = new Quantiser(dither, 0);
    return values.map((value) => quantiser.quantise(value) - value);
  };
  const power = (values: Float64Array) => values.reduce((sum, x) => sum + x * x, 0) / values.length;

  // "Quantization and Dither: A Theoretical Survey" (1992), from memory.
  test.each<[Dither, number]>([
    ['none', 1 / 12],
    ['rpdf', 1 / 6],
    ['tpdf', 1 / 4],
  ])('%s: the error has the power that theory gives it, within 0.1 dB', (dither, expected) => {
    expect(Math.abs(10 * Math.log10(power(errors(dither, signal)) / expected))).toBeLessThan(0.1);
  });

  test('triangular: the error is no louder where the signal stands than where it falls (no noise modulation)', () => {
    for (const level of [0, 0.25, 0.5, 0.75]) {
      const constant = new Float64Array(100_000).fill(level + 1e-9);
      expect(Math.abs(10 * Math.log10(power(errors('tpdf', constant)) * 4))).toBeLessThan(0.1);
    }
  });

  test('rectangular and triangular: what is below a step is still there in the mean', () => {
    for (const dither of ['rpdf', 'tpdf', 'shaped'] as const) {
      const quantiser = new Quantiser(dither, 1);
      let sum = 0;
      for (let n = 0; n < 200_000; n++) sum += quantiser.quantise(0.3);
      expect(sum / 200_000).toBeCloseTo(0.3, 2);
    }
    expect(new Quantiser('none', 0).quantise(0.3)).toBe(0);
  });

  test('shaped: less error where hearing is keen (2 to 5 kHz), more where it is dull', () => {
    const frames = 1 << 15;
    const bandPower = (values: Float64Array, fromHz: number, toHz: number) => {
      let sum = 0;
      let bins = 0;
      for (let hz = fromHz; hz < toHz; hz += 97) {
        let re = 0;
        let im = 0;
        for (let n = 0; n < frames; n++) {
          re += (values[n] ?? Number.NaN) * cos((2 * PI * hz * n) / 44_100);
          im += (values[n] ?? Number.NaN) * sin((2 * PI * hz * n) / 44_100);
        }
        sum += re * re + im * im;
        bins++;
      }
      return 10 * Math.log10(sum / bins);
    };
    const [plain, shaped] = [errors('tpdf', signal), errors('shaped', signal)];
    expect(bandPower(shaped, 2000, 5000) - bandPower(plain, 2000, 5000)).toBeLessThan(-10);
    expect(bandPower(shaped, 16_000, 20_000) - bandPower(plain, 16_000, 20_000)).toBeGreaterThan(5);
  });

  test('channels have different noise', () => {
    for (const dither of DITHERS) {
      if (dither === 'none') continue;
      const [a, b] = [0, 1].map((channel) => {
        const own = new Quantiser(dither, channel);
        return Array.from({ length: 200 }, () => own.quantise(0.5));
      });
      expect(a).not.toEqual(b);
    }
  });

  test('long digital silence is found from its first frame to its last, however the frames are cut', () => {
    const stretches = fc.array(fc.tuple(fc.boolean(), fc.integer({ min: 1, max: 2500 })), {
      minLength: 1,
      maxLength: 6,
    });
    fc.assert(
      fc.property(stretches, fc.integer({ min: 1, max: 3000 }), (runs, piece) => {
        const samples = Float32Array.from(runs.flatMap(([isSilent, length]) => Array(length).fill(isSilent ? 0 : 0.5)));
        const found = new Uint8Array(samples.length);
        const finder = new SilenceFinder();
        for (let at = 0; at < samples.length; at += piece) {
          const frames = Math.min(piece, samples.length - at);
          finder.find(samples.subarray(at, at + frames + SILENT_FRAMES), frames, found.subarray(at));
        }
        // Said apart: every zero whose whole run is long enough.
        const expected = new Uint8Array(samples.length);
        for (let from = 0, to = 0; from < samples.length; from = to) {
          while (to < samples.length && (samples[to] === 0) === (samples[from] === 0)) to++;
          if (samples[from] === 0 && to - from >= SILENT_FRAMES) expected.fill(1, from, to);
        }
        expect(found).toEqual(expected);
      }),
    );
  });
});
