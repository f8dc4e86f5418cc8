/** What the rate and the depth of a delivery do to its spectrum: images, aliases, and where shaped dither puts its noise. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import FFT from 'fft.js';
import { resampleWav } from '@/codecs/resample';
import { Quantiser } from '@/core/treatment/steps/dither';
import { wavOf } from '../fixtures/wav';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-spectra-'));
afterAll(() => rmSync(folder, { recursive: true }));

const POINTS = 1 << 15;
const { sin, cos, PI } = Math;

/**
 * Blackman and Harris's window of seven terms, whose side lobes lie below −180 dB (Albrecht, "A family of cosine-sum windows for
 * high-resolution measurements", ICASSP 2001; coefficients from memory).
 */
const WINDOW = Float64Array.from({ length: POINTS }, (_, n) =>
  [
    0.27105140069342, 0.43329793923448, 0.218122999543, 0.06592544638803, 0.01081174209837, 0.00077658482522,
    0.00001388721735,
  ]
    .map((term, k) => (k % 2 === 0 ? term : -term) * cos((2 * PI * k * n) / POINTS))
    .reduce((sum, x) => sum + x, 0),
);
const WINDOW_SUM = WINDOW.reduce((sum, x) => sum + x, 0);

/** Levels of the spectrum's lines in dBFS of a sine's peak. */
function spectrum(samples: ArrayLike<number>, from: number): Float64Array {
  const fft = new FFT(POINTS);
  const input = Float64Array.from(WINDOW, (w, n) => w * (samples[from + n] ?? Number.NaN));
  const output = new Float64Array(2 * POINTS);
  fft.realTransform(output, input);
  return Float64Array.from({ length: POINTS / 2 }, (_, k) => {
    const magnitude = Math.hypot(output[2 * k] ?? Number.NaN, output[2 * k + 1] ?? Number.NaN);
    return 20 * Math.log10((2 * magnitude) / WINDOW_SUM + 1e-20);
  });
}

async function resampled(samples: Float32Array, fromHz: number, toHz: number): Promise<Float32Array> {
  const path = join(folder, `${fromHz}.wav`);
  const output = join(folder, `${toHz}.wav`);
  writeFileSync(path, wavOf([samples], { sampleRateHz: fromHz, bits: 32, float: true }));
  await resampleWav(path, output, { fromHz, toHz, frames: samples.length, fileName: 'tones' });
  const bytes = readFileSync(output);
  const at = bytes.indexOf('data', 12, 'latin1') + 8;
  return new Float32Array(Uint8Array.from(bytes.subarray(at, at + 4 * Math.floor((bytes.length - at) / 4))).buffer);
}

const STEP_SECONDS = 1.2;
/** A sweep in steps: each stands long enough for its spectrum. */
function sweep(rateHz: number, frequenciesHz: readonly number[]): Float32Array {
  const frames = Math.round(STEP_SECONDS * rateHz);
  const samples = new Float32Array(frames * frequenciesHz.length);
  frequenciesHz.forEach((hz, step) => {
    for (let n = 0; n < frames; n++) samples[step * frames + n] = 0.5 * sin((2 * PI * hz * n) / rateHz);
  });
  return samples;
}

const CLEAN_DBFS = -140;
/** Where soxr's pass band ends, of the lower rate's half. */
const PASS = 0.9;
/** From here on nothing of what can't be kept comes through. */
const STOP = 1.05;

test.each([
  [44_100, 48_000],
  [48_000, 44_100],
  [44_100, 96_000],
  [96_000, 44_100],
  [48_000, 96_000],
  [96_000, 48_000],
])('a sweep from %i to %i Hz leaves images and aliases below −140 dBFS', async (fromHz, toHz) => {
  const half = Math.min(fromHz, toHz) / 2;
  const kept = [60, 997, 5003, 9973, 14_983, PASS * half].filter((hz) => hz <= PASS * half);
  const lost = [STOP * half, 1.3 * half, 1.7 * half, 0.98 * (fromHz / 2)].filter(
    (hz) => hz >= STOP * half && hz < fromHz / 2,
  );
  const frequencies = [...kept, ...lost];
  const out = await resampled(sweep(fromHz, frequencies), fromHz, toHz);
  for (const [step, hz] of frequencies.entries()) {
    const middle = Math.round((step + 0.5) * STEP_SECONDS * toHz);
    const lines = spectrum(out, middle - POINTS / 2);
    const own = (hz / toHz) * POINTS;
    const isKept = hz <= PASS * half;
    let level = Number.NEGATIVE_INFINITY;
    let worst = Number.NEGATIVE_INFINITY;
    lines.forEach((db, k) => {
      if (isKept && Math.abs(k - own) <= 10) level = Math.max(level, db);
      else worst = Math.max(worst, db);
    });
    expect({ hz, isClean: worst < CLEAN_DBFS, worst }).toEqual({ hz, isClean: true, worst });
    // Half of full scale comes through as half; between two lines the window itself takes 0.45 dB.
    if (isKept) expect(Math.abs(level + 6.02)).toBeLessThan(0.46);
  }
});

test('shaped dither moves its noise as its five taps say (Lipshitz, Vanderkooy and Wannamaker 1991, from memory)', () => {
  const taps = [2.033, -2.165, 1.959, -1.59, 0.6149];
  const blocks = 60;
  const quantiser = new Quantiser('shaped', 0);
  const power = new Float64Array(POINTS / 2);
  for (let block = 0; block < blocks; block++) {
    const errors = Float64Array.from({ length: POINTS }, (_, n) => {
      const value = 300 * sin((2 * PI * 0.0123 * (block * POINTS + n)) % (2 * PI));
      return quantiser.quantise(value) - value;
    });
    spectrum(errors, 0).forEach((db, k) => {
      power[k] = (power[k] ?? Number.NaN) + 10 ** (db / 10) / blocks;
    });
  }
  /** Of the transfer that an error takes, |1 − Σ c z⁻ᵏ|². */
  const shape = (k: number) => {
    const w = (PI * k) / (POINTS / 2);
    const real = 1 - taps.reduce((sum, c, i) => sum + c * cos((i + 1) * w), 0);
    const imaginary = taps.reduce((sum, c, i) => sum + c * sin((i + 1) * w), 0);
    return real * real + imaginary * imaginary;
  };
  // White noise of a quarter of a step squared, as triangular dither leaves it, in the window's noise bandwidth.
  const windowPower = WINDOW.reduce((sum, x) => sum + x * x, 0);
  const white = (0.25 * 4 * windowPower) / (WINDOW_SUM * WINDOW_SUM);
  for (let from = 256; from < POINTS / 2; from += 1024) {
    let [measured, expected] = [0, 0];
    for (let k = from; k < Math.min(from + 1024, POINTS / 2); k++) {
      measured += power[k] ?? Number.NaN;
      expected += white * shape(k);
    }
    expect(Math.abs(10 * Math.log10(measured / expected))).toBeLessThan(0.5);
  }
});
