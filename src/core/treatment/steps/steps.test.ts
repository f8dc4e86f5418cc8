import fc from 'fast-check';
import FFT from 'fft.js';
import { seededRandom } from '@/cli/demo/random';
import { QuietestFinder, RoomTone, toneFrames } from '../room-tone';
import { DITHERS, type Dither, Quantiser, SILENT_FRAMES, SilenceFinder } from './dither';
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
          re += (values[n] as number) * cos((2 * PI * hz * n) / 44_100);
          im += (values[n] as number) * sin((2 * PI * hz * n) / 44_100);
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
      expect(Math.abs(x - (samples[n] as number))).toBeLessThan(1e-7);
    });
  });
});

describe('room tone', () => {
  const random = seededRandom(8);
  const rate = 48_000;
  const white = () => Float32Array.from({ length: toneFrames(rate) }, () => random() - 0.5);
  /** What hardly changes from one sample to the next: a seam would be seen. */
  const brown = () => {
    let state = 0;
    return Float32Array.from({ length: toneFrames(rate) }, () => {
      state = 0.98 * state + 0.02 * (random() - 0.5);
      return state;
    });
  };
  const power = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0) / samples.length;
  const made = (tone: RoomTone, frames: number, channel = 0) =>
    Float32Array.from({ length: frames }, (_, frame) => tone.sample(channel, frame));
  const spectrum = (samples: Float32Array, size: number) => {
    const [wave, bins] = [new Float64Array(size), new Float64Array(2 * size)];
    wave.set(samples);
    const plan = new FFT(size);
    plan.realTransform(bins, wave);
    return { bins, plan };
  };

  test.each([
    ['white', white],
    ['brown', brown],
  ])('%s: without a step, and as loud as what it is made from', (_name, make) => {
    const tone = make();
    const long = made(new RoomTone([tone], rate), 5 * rate);
    const steps = (samples: Float32Array) =>
      samples.reduce((most, x, n) => (n === 0 ? 0 : Math.max(most, Math.abs(x - (samples[n - 1] as number)))), 0);
    expect(steps(long)).toBeLessThan(2 * steps(tone));
    expect(Math.abs(10 * Math.log10(power(long) / power(tone)))).toBeLessThan(1);
  });

  test('nothing comes back: no lag from 50 ms on has a correlation above 0.2', () => {
    const frames = 5 * rate;
    const long = made(new RoomTone([white()], rate), frames);
    const { bins, plan } = spectrum(long, 1 << 19);
    plan.completeSpectrum(bins);
    for (let k = 0; k < bins.length; k += 2) {
      bins[k] = (bins[k] as number) ** 2 + (bins[k + 1] as number) ** 2;
      bins[k + 1] = 0;
    }
    const lags = new Float64Array(bins.length);
    plan.inverseTransform(lags, bins);
    const whole = lags[0] as number;
    let most = 0;
    // Of what still overlaps; the last second has too little to be judged by.
    for (let lag = rate / 20; lag < frames - rate; lag++)
      most = Math.max(most, Math.abs(lags[2 * lag] as number) / whole / (1 - lag / frames));
    expect(most).toBeLessThan(0.2);
    expect(most).toBeGreaterThan(0);
  });

  test('its spectrum is that of what it is made from, within 1 dB in every octave', () => {
    const tone = brown();
    const long = made(new RoomTone([tone], rate), 8 * rate);
    const bands = (samples: Float32Array) => {
      const sums = new Float64Array(12);
      for (let at = 0; at + 4096 <= samples.length; at += 1024) {
        const windowed = samples.slice(at, at + 4096).map((x, n) => x * (0.5 - 0.5 * cos((2 * PI * n) / 4096)));
        const { bins } = spectrum(windowed, 4096);
        for (let k = 8; k < 2048; k++) {
          const octave = Math.floor(Math.log2(k));
          sums[octave] = (sums[octave] as number) + (bins[2 * k] as number) ** 2 + (bins[2 * k + 1] as number) ** 2;
        }
      }
      return sums.map((sum) => 10 * Math.log10(sum / Math.floor((samples.length - 4096) / 1024 + 1)));
    };
    const [own, its] = [bands(tone), bands(long)];
    for (let octave = 3; octave < 11; octave++) {
      expect(Math.abs((its[octave] as number) - (own[octave] as number))).toBeLessThan(1);
    }
  });

  test('channels belong together: what is the same in both stays the same', () => {
    const tone = white();
    const both = new RoomTone([tone, tone.map((x) => -x / 2)], rate);
    for (let frame = 0; frame < 20_000; frame += 7) {
      expect(both.sample(1, frame)).toBeCloseTo(-both.sample(0, frame) / 2, 6);
    }
  });
});

test('the quietest half-seconds are found, past digital silence', () => {
  const rate = 8000;
  const samples = Float32Array.from({ length: 5 * rate }, (_, n) => {
    const second = n / rate;
    if (second < 1) return 0;
    return (second > 3 && second < 3.7 ? 0.01 : 0.2) * sin(n);
  });
  const finder = new QuietestFinder(rate);
  for (let from = 0; from < samples.length; from += 777) {
    const part = samples.subarray(from, from + 777);
    finder.process([part], part.length);
  }
  const [found, next] = finder.candidates(2);
  expect(found?.frames).toBe(rate / 2);
  expect((found?.startFrame as number) / rate).toBeGreaterThanOrEqual(3);
  expect((found?.startFrame as number) / rate).toBeLessThanOrEqual(3.2);
  expect(Math.abs((next?.startFrame as number) - (found?.startFrame as number))).toBeGreaterThan(rate / 4);
  expect(new QuietestFinder(rate).candidates(2)).toEqual([]);
});
