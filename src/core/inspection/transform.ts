import FFT from 'fft.js';

const { cos, PI } = Math;

/** What transforms of one length have in common: tables take as long to make as many transforms. */
interface Plan {
  fft: FFT;
  window: Float64Array;
  windowed: Float64Array;
  complex: Float64Array;
}

const plans = new Map<number, Plan>();

function planOf(frames: number): Plan {
  const known = plans.get(frames);
  if (known) return known;
  const fft = new FFT(frames);
  const window = new Float64Array(frames);
  for (let n = 0; n < frames; n++) window[n] = 0.5 - 0.5 * cos((2 * PI * n) / frames);
  const plan = { fft, window, windowed: new Float64Array(frames), complex: new Float64Array(2 * frames) };
  plans.set(frames, plan);
  return plan;
}

/** The Hann window passes 3/8 of the power. */
const WINDOW_POWER = 0.375;

/** What makes the squared magnitude of one bin of one block a mean square: half of the spectrum is its own mirror image. */
export function binPowerScale(frames: number): number {
  return 2 / (WINDOW_POWER * frames * frames);
}

/**
 * The spectrum of a block under a Hann window: real and imaginary part of each bin in turn, of which the lower half is meant. The
 * next transform of that length overwrites it.
 *
 * @param frames a power of two; samples that are missing are taken as silence
 */
export function hannTransform(samples: Float32Array, frames: number): Float64Array {
  const { fft, window, windowed, complex } = planOf(frames);
  for (let n = 0; n < frames; n++) windowed[n] = (samples[n] ?? 0) * (window[n] as number);
  fft.realTransform(complex, windowed);
  return complex;
}
