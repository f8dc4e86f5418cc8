import type FFT from 'fft.js';
import { fftOf } from './fft-of';

export interface Delay {
  /** By how much the first signal comes later than the second. */
  frames: number;
  /** What of the first is the second at that place, −1 to 1: negative where it is upside down. */
  likeness: number;
}

/** Of places that are as good as this beside the best, the nearest one counts: a tone is like itself at every cycle. */
const AS_GOOD = 0.995;

/**
 * By how many frames one signal comes later than another, by cross-correlation over both lengths.
 *
 * @param a and `b` channels of one length each, a power of two
 * @param mostFrames farther apart is not looked
 */
export function delayOf(a: readonly Float32Array[], b: readonly Float32Array[], mostFrames: number): Delay {
  const length = a[0]?.length ?? 0;
  const size = 2 * length;
  const fft = fftOf(size);
  const sum = new Float64Array(2 * size);
  let [energyA, energyB] = [0, 0];
  a.forEach((samples, c) => {
    const [x, y] = [spectrumOf(fft, samples, size), spectrumOf(fft, b[c] as Float32Array, size)];
    for (let k = 0; k < 2 * size; k += 2) {
      const [ar, ai, br, bi] = [x[k] ?? 0, x[k + 1] ?? 0, y[k] ?? 0, y[k + 1] ?? 0];
      sum[k] = (sum[k] ?? 0) + ar * br + ai * bi;
      sum[k + 1] = (sum[k + 1] ?? 0) + ai * br - ar * bi;
    }
    energyA += energy(samples);
    energyB += energy(b[c] as Float32Array);
  });
  if (energyA === 0 || energyB === 0) return { frames: 0, likeness: 0 };
  const correlation = new Float64Array(2 * size);
  fft.inverseTransform(correlation, sum);
  const at = (frames: number) => correlation[2 * ((frames + size) % size)] ?? 0;
  const reach = Math.min(mostFrames, length - 1);
  let greatest = 0;
  for (let frames = -reach; frames <= reach; frames++) greatest = Math.max(greatest, Math.abs(at(frames)));
  for (let away = 0; away <= reach; away++) {
    for (const frames of [away, -away]) {
      if (Math.abs(at(frames)) < AS_GOOD * greatest) continue;
      const top = topNear(at, frames, reach);
      return { frames: top, likeness: at(top) / Math.sqrt(energyA * energyB) };
    }
  }
  return { frames: 0, likeness: 0 };
}

/** The top of the hill that a place stands on. */
function topNear(at: (frames: number) => number, from: number, reach: number): number {
  let frames = from;
  for (;;) {
    const next = [frames - 1, frames + 1].find(
      (near) => Math.abs(near) <= reach && Math.abs(at(near)) > Math.abs(at(frames)),
    );
    if (next === undefined) return frames;
    frames = next;
  }
}

function spectrumOf(fft: FFT, samples: Float32Array, size: number): Float64Array {
  const padded = new Float64Array(size);
  padded.set(samples);
  const spectrum = new Float64Array(2 * size);
  fft.realTransform(spectrum, padded);
  fft.completeSpectrum(spectrum);
  return spectrum;
}

function energy(samples: Float32Array): number {
  return samples.reduce((sum, x) => sum + x * x, 0);
}
