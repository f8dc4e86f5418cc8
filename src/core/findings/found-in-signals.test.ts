/** Each finding on material that has it, and on material that nearly does. */
import {
  codes,
  correlated,
  dithered,
  faded,
  holed,
  joined,
  late,
  lowPassed,
  noiseAt,
  other,
  peakOf,
  RATE,
  rising,
  shifted,
  silence,
  sin,
  sine,
  softened,
  spoken,
  times,
  voices,
} from '../../../tests/fixtures/finding-material';
import { tone } from '../../../tests/fixtures/signals';

describe.each<[string, Float32Array[][], Float32Array[][]]>([
  [
    'silent-channel',
    [...voices.slice(0, 4).map((a) => [a, silence(2)]), [voices[0] as Float32Array, other, silence(2)]],
    // However quiet, something is there: −90 dBFS, or a single step of 24 bits.
    [
      ...voices.slice(0, 3).map((a) => [a, times(other, 1e-4)]),
      [other, times(other, 1e-5)],
      [other, silence(2).map((_, n) => (n === 700 ? 2 ** -23 : 0))],
    ],
  ],
  [
    'same-channels',
    // To the bit, or each with its own dither of 16 bits.
    voices.map((a, i) => (i < 3 ? [a, a.slice()] : [dithered(a, 1), dithered(a, 2)])),
    // A gain of 0.01 dB, a frame late, a hole, upside down, another voice.
    [
      [other, times(other, 1.001)],
      [other, late(other, 1)],
      [other, holed(other)],
      [other, times(other, -1)],
      [other, voices[0] as Float32Array],
    ],
  ],
  [
    'inverted-polarity',
    voices.map((a, i) => (i < 3 ? [a, times(a, -1)] : [dithered(a, 1), dithered(times(a, -1), 2)])),
    [
      [other, times(other, -1.001)],
      [other, late(times(other, -1), 1)],
      [other, holed(times(other, -1))],
      [other, other.slice()],
      [other, times(voices[0] as Float32Array, -1)],
    ],
  ],
  [
    'dc-offset',
    [0.0035, -0.004, 0.01, -0.05, 0.3].map((offset) => [shifted(other, offset)]),
    [0, 0.001, -0.002, 0.0025, -0.0027].map((offset) => [shifted(other, offset)]),
  ],
  [
    'silence-ahead',
    [1.05, 1.3, 2, 5, 11].map((seconds) => [joined(silence(seconds), other)]),
    [0, 0.2, 0.5, 0.8, 0.95].map((seconds) => [joined(silence(seconds), other)]),
  ],
  [
    'silence-behind',
    [5.2, 6, 7.3, 9, 12].map((seconds) => [joined(other, silence(seconds))]),
    [0, 0.5, 2, 3.5, 4.7].map((seconds) => [joined(other, silence(seconds))]),
  ],
  [
    'ends-sounding',
    [0.5, 0.9, 1.2, 1.55, 1.59].map((seconds) => [other.subarray(0, seconds * RATE)]),
    [
      [other],
      [joined(other.subarray(0, RATE), silence(0.15))],
      [joined(other.subarray(0, RATE), times(other.subarray(0, 0.3 * RATE), 0.05))],
      [other.subarray(0, 1.92 * RATE)],
      [times(other, 0.01)],
    ],
  ],
  [
    'works-against',
    [-0.35, -0.5, -0.7, -0.9, -0.97].map((correlation) => [other, correlated(other, correlation)]),
    [-0.25, -0.1, 0, 0.6, 0.95].map((correlation) => [other, correlated(other, correlation)]),
  ],
  [
    'out-of-balance',
    [0.69, 0.5, 0.3, 1.45, 4].map((gain) => [times(other, 0.2), times(voices[0] as Float32Array, 0.2 * gain)]),
    [0.75, 0.9, 1, 1.2, 1.36].map((gain) => [times(other, 0.2), times(voices[0] as Float32Array, 0.2 * gain)]),
  ],
  [
    'click-at-edge',
    [
      [sine(-12).subarray(12)],
      [sine(-6).map((x, n) => (n === 30 ? x + 0.3 : x))],
      [shifted(other, 0.02)],
      [rising(other), rising(other).map((x, n) => (n === 400 ? 0.9 : x))],
      [joined(rising(other), Float32Array.of(0.05))],
    ],
    [
      [sine(-12)],
      [rising(other)],
      [joined(silence(0.5), rising(other))],
      [sine(-6).map((x, n) => (n === 30 ? x + 0.0005 : x))],
      [shifted(rising(other), 0.005)],
    ],
  ],
  [
    'noise-floor',
    [-57, -55, -50, -45, -40].map((level) => [spoken((n) => noiseAt(level, n))]),
    [
      [spoken((n) => noiseAt(-63, n))],
      [spoken((n) => noiseAt(-80, n))],
      [spoken(() => 0)],
      // A hum of partials is a tone, and noise through the whole programme is what it is made of.
      [spoken((n) => 0.003 * (sin(n / 40) + sin(n / 20) + sin(n / 13.3)))],
      [other],
    ],
  ],
  [
    'band-edge',
    [11_000, 14_000, 16_000, 18_000, 20_000].map((hz) => [lowPassed(hz)]),
    [
      [other],
      [lowPassed(21_000)],
      [lowPassed(9_000)],
      // As microphones and desks do it: 24 dB an octave.
      [softened(other, 12_000)],
      // Few partials end somewhere too.
      [faded(tone([{ seconds: 2, levelDbfs: -12 }], RATE, 15_000))],
    ],
  ],
  [
    'clipped-runs',
    [
      ...[1, 2, 6, 12].map((overDb) => [times(sine(0), 10 ** (overDb / 20)).map((x) => Math.max(-1, Math.min(1, x)))]),
      // Three samples in one channel are enough.
      [times(other, 0.5), times(other, 0.5).map((x, n) => (n >= 30_000 && n < 30_003 ? -1 : x))],
    ],
    [
      [sine(0)],
      [sine(-0.001)],
      [times(other, 0.5).map((x, n) => (n >= 30_000 && n < 30_002 ? -1 : x))],
      [times(other, 0.5).map((x, n) => (n >= 30_000 && n < 30_030 ? 0.99 : x))],
      // A quantised slow wave stands at full scale for a while, and comes and goes in single steps.
      [faded(tone([{ seconds: 1, levelDbfs: 0 }], RATE, 30).map((x) => Math.round(x * 32_767) / 32_768))],
    ],
  ],
  [
    'normalised-to-full-scale',
    [[sine(0)], [times(other, 1 / peakOf(other))], [times(sine(0), -1)], [sine(-0.004)], [sine(0), sine(-20)]],
    [[sine(-0.01)], [sine(-0.1)], [sine(-1)], [times(sine(0), 2).map((x) => Math.max(-1, Math.min(1, x)))], [other]],
  ],
  [
    'silent',
    [[silence(1)], [silence(0.2)], [silence(1), silence(1)], [sine(-75)], [sine(-90), silence(1)]],
    [[sine(-60)], [sine(-66)], [sine(-60), silence(1)], [joined(silence(1), sine(-60))], [sine(-12, 0.2)]],
  ],
  [
    'too-short',
    [0.01, 0.1, 0.2, 0.3, 0.39].map((seconds) => [tone([{ seconds, levelDbfs: -12 }], RATE, 997)]),
    [0.4, 0.45, 0.5, 1, 2].map((seconds) => [tone([{ seconds, levelDbfs: -12 }], RATE, 997)]),
  ],
])('%s', (code, positives, nearMisses) => {
  test.each(positives.map((channels, i) => [i + 1, channels] as const))(
    'found on material %i',
    async (_i, channels) => {
      expect(await codes([...channels])).toContain(code);
    },
  );
  test.each(nearMisses.map((channels, i) => [i + 1, channels] as const))(
    'not on near-miss %i',
    async (_i, channels) => {
      expect(await codes([...channels])).not.toContain(code);
    },
  );
});
