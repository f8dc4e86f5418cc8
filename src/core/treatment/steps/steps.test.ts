import fc from 'fast-check';
import { applyFades, FADE_SHAPES, fadeGain } from './fade';
import { invertGain } from './gain';
import { CHANNEL_MIXES, invertMix, mixChannels, mixedChannels } from './mix-channels';
import { invertRemoveDc, removeDc } from './remove-dc';

const { sin, cos, PI } = Math;

describe('fades', () => {
  test.each(FADE_SHAPES)('%s rises from silence to all, and never falls', (shape) => {
    expect(fadeGain(shape, 0)).toBe(0);
    expect(fadeGain(shape, 1)).toBe(1);
    let last = 0;
    for (let i = 1; i <= 1000; i++) {
      const gain = fadeGain(shape, i / 1000);
      expect(gain).toBeGreaterThan(last);
      last = gain;
    }
  });

  test('where two cross, linear keeps the amplitude and equal-power the power', () => {
    for (let i = 0; i <= 20; i++) {
      const [a, b] = [i / 20, 1 - i / 20];
      expect(fadeGain('linear', a) + fadeGain('linear', b)).toBeCloseTo(1, 12);
      expect(fadeGain('s-curve', a) + fadeGain('s-curve', b)).toBeCloseTo(1, 12);
      expect(fadeGain('equal-power', a) ** 2 + fadeGain('equal-power', b) ** 2).toBeCloseTo(1, 12);
    }
    expect(fadeGain('equal-power', 0.5)).toBeCloseTo(Math.SQRT1_2, 12);
    expect(20 * Math.log10(fadeGain('exponential', 0.5))).toBeCloseTo(-30, 9);
  });

  test('silent at both ends, untouched between, and the same however the frames are cut', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...FADE_SHAPES),
        fc.integer({ min: 1, max: 60 }),
        fc.integer({ min: 1, max: 60 }),
        fc.integer({ min: 1, max: 50 }),
        (shape, inFrames, outFrames, piece) => {
          const frames = 200;
          const fades = { fadeIn: { frames: inFrames, shape }, fadeOut: { frames: outFrames, shape } };
          const whole = new Float32Array(frames).fill(1);
          applyFades([whole], frames, 0, frames, fades);
          expect(whole[0]).toBe(0);
          expect(whole[frames - 1]).toBe(0);
          expect(whole.subarray(inFrames, frames - outFrames).every((x) => x === 1)).toBe(true);
          const cut = new Float32Array(frames).fill(1);
          for (let from = 0; from < frames; from += piece) {
            const part = cut.subarray(from, from + piece);
            applyFades([part], part.length, from, frames, fades);
          }
          expect(cut).toEqual(whole);
        },
      ),
    );
  });
});

describe('channels', () => {
  const pair = () => [Float32Array.of(1, 0.5, -0.25), Float32Array.of(0.5, -0.5, 0.25)] as [Float32Array, Float32Array];
  test.each<[(typeof CHANNEL_MIXES)[number], number[][]]>([
    [
      'stereo',
      [
        [1, 0.5, -0.25],
        [0.5, -0.5, 0.25],
      ],
    ],
    [
      'swapped',
      [
        [0.5, -0.5, 0.25],
        [1, 0.5, -0.25],
      ],
    ],
    ['left', [[1, 0.5, -0.25]]],
    ['right', [[0.5, -0.5, 0.25]]],
    ['mono-0', [[1.5, 0, 0]]],
    ['mono-6', [[0.75, 0, 0]]],
    [
      'invert-left',
      [
        [-1, -0.5, 0.25],
        [0.5, -0.5, 0.25],
      ],
    ],
    [
      'invert-right',
      [
        [1, 0.5, -0.25],
        [-0.5, 0.5, -0.25],
      ],
    ],
  ])('%s', (mix, expected) => {
    expect(mixChannels(pair(), mix).map((samples) => [...samples])).toEqual(expected);
  });
  test('at −3 dB, two that have nothing in common are as loud as they were', () => {
    const left = Float32Array.from({ length: 48_000 }, (_, n) => sin((2 * PI * n) / 48));
    const right = Float32Array.from({ length: 48_000 }, (_, n) => cos((2 * PI * n) / 48));
    const power = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);
    const before = power(left);
    const [mono] = mixChannels([left, right], 'mono-3');
    expect(10 * Math.log10(power(mono as Float32Array) / before)).toBeCloseTo(0, 1);
  });
  test('a turned polarity turned again is what it was', () => {
    for (const mix of ['invert-left', 'invert-right', 'swapped'] as const) {
      const once = mixChannels(pair(), mix) as [Float32Array, Float32Array];
      expect(mixChannels(once, mix)).toEqual(pair());
    }
  });
  test('as many channels come out as are announced', () => {
    for (const mix of CHANNEL_MIXES) expect(mixChannels(pair(), mix)).toHaveLength(mixedChannels(mix));
  });
});

describe('inverses', () => {
  test('a gain is undone by its opposite, and nothing by nothing', () => {
    expect(invertGain(3.25)).toBe(-3.25);
    expect(Object.is(invertGain(0), 0)).toBe(true);
  });

  test('two channels that stay two are put back by the same mix; one can\u2019t be', () => {
    for (const mix of CHANNEL_MIXES) {
      const inverse = invertMix(mix);
      expect(inverse === null).toBe(mixedChannels(mix) === 1);
      if (inverse === null) continue;
      const [left, right] = [Float32Array.of(1, 0.5, -0.25), Float32Array.of(0.5, -0.5, 0.25)];
      const there = mixChannels([left.slice(), right.slice()], mix) as [Float32Array, Float32Array];
      expect(mixChannels(there, inverse)).toEqual([left, right]);
    }
  });

  test('means that were taken off are put back, to the rounding of f32', () => {
    const samples = Float32Array.of(0.5, -0.25, 0.125);
    const treated = samples.slice();
    removeDc([treated], 3, [0.1]);
    expect(treated[0]).toBeCloseTo(0.4, 7);
    removeDc([treated], 3, invertRemoveDc([0.1]));
    treated.forEach((x, n) => {
      expect(Math.abs(x - (samples[n] ?? Number.NaN))).toBeLessThan(1e-7);
    });
  });
});
