import FFT from 'fft.js';

const known = new Map<number, FFT>();

/** A transform of a size, a power of two. Its tables take longer to make than it takes to transform: each size's are made once. */
export function fftOf(size: number): FFT {
  const fft = known.get(size) ?? new FFT(size);
  known.set(size, fft);
  return fft;
}
