import FFT from 'fft.js';
import { seededRandom } from '@/cli/demo/random';
import { QuietestFinder, RoomTone, toneFrames } from './room-tone';

const { sin, cos, PI } = Math;

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
      samples.reduce((most, x, n) => (n === 0 ? 0 : Math.max(most, Math.abs(x - (samples[n - 1] ?? Number.NaN)))), 0);
    expect(steps(long)).toBeLessThan(2 * steps(tone));
    expect(Math.abs(10 * Math.log10(power(long) / power(tone)))).toBeLessThan(1);
  });

  test('nothing comes back: no lag from 50 ms on has a correlation above 0.2', () => {
    const frames = 5 * rate;
    const long = made(new RoomTone([white()], rate), frames);
    const { bins, plan } = spectrum(long, 1 << 19);
    plan.completeSpectrum(bins);
    for (let k = 0; k < bins.length; k += 2) {
      bins[k] = (bins[k] ?? Number.NaN) ** 2 + (bins[k + 1] ?? Number.NaN) ** 2;
      bins[k + 1] = 0;
    }
    const lags = new Float64Array(bins.length);
    plan.inverseTransform(lags, bins);
    const whole = lags[0] ?? Number.NaN;
    let most = 0;
    // Of what still overlaps; the last second has too little to be judged by.
    for (let lag = rate / 20; lag < frames - rate; lag++)
      most = Math.max(most, Math.abs(lags[2 * lag] ?? Number.NaN) / whole / (1 - lag / frames));
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
          sums[octave] =
            (sums[octave] ?? Number.NaN) + (bins[2 * k] ?? Number.NaN) ** 2 + (bins[2 * k + 1] ?? Number.NaN) ** 2;
        }
      }
      return sums.map((sum) => 10 * Math.log10(sum / Math.floor((samples.length - 4096) / 1024 + 1)));
    };
    const [own, its] = [bands(tone), bands(long)];
    for (let octave = 3; octave < 11; octave++) {
      expect(Math.abs((its[octave] ?? Number.NaN) - (own[octave] ?? Number.NaN))).toBeLessThan(1);
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
  expect((found?.startFrame ?? Number.NaN) / rate).toBeGreaterThanOrEqual(3);
  expect((found?.startFrame ?? Number.NaN) / rate).toBeLessThanOrEqual(3.2);
  expect(Math.abs((next?.startFrame ?? Number.NaN) - (found?.startFrame ?? Number.NaN))).toBeGreaterThan(rate / 4);
  expect(new QuietestFinder(rate).candidates(2)).toEqual([]);
});
